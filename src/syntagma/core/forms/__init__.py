"""Forms: a formula as one table of ready pieces, which a spreadsheet or a page puts together without the program."""
