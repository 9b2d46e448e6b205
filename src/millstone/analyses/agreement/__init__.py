"""Agreement: does a category count what coders say it should, and do coders agree?"""
