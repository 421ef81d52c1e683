"""keep, kept, gallery, see, near, judge, effects: what comes back, and what it teaches."""
