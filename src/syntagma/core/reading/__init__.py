"""Reading: finished prompts and plain wishes taken apart, and what can be done with the parts.

A text goes from outer_form (form, parameters, marks) through prose (cutting, classifying) to
reader, which gives prompt_pieces. On them stand formulas (matching, rewriting, learning),
shortening, comparing, scenes and wishes.
"""
