"""Folders and files: where the layers lie, workspaces, whole-file writing."""
