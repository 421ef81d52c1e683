"""A film cut: times, subtitles, and what there is to look at before it is paid for."""
