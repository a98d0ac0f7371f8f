"""What is verified of a pack, from its files alone: a module a kind of file.

A check takes a ``Pack`` and yields, for everything it looks at, how far that is from what it should
be and where it is; the table in ``exchange/check.py`` says how far is too far.
"""
