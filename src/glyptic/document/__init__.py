"""The document: a stack of layers as frozen values, its edits, and its file. No arrays here."""
