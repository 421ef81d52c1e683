"""A formula and its fills into a draft: fills, the order of phrases, sound, what surrounds the
content.
"""
