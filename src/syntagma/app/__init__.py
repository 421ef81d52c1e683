"""What a command asks for, whole. The library under the command line: `World.load()`, then compose
or expand.
"""
