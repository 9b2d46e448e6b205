"""Plan: how large a difference would corpora of a given size show?"""
