"""What a picture says of itself: read from its file, and written into a copy without touching a
pixel.
"""
