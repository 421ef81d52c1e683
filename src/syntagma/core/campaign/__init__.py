"""Campaigns: a business as its owner describes it, the kinds of piece that can serve one, and what of them serves this one."""
