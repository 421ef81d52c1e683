"""What is seen in a picture: its colours, its light, how sharp it is, and which pictures
are alike.
"""
