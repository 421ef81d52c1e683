"""One prompt, or one for each row of a table: fills given, heard, asked for or picked."""
