"""Films: shot lists and scripts made into prompts, timelines, subtitles, strips."""
