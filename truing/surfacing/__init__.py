"""Surfacing a board: how much, where, in how many passes, and the program that does it.

`plan` makes it from a map, a board and a wish; `write` turns it into RS-274; `truing.programs`
reads that back before anybody is offered it.
"""
