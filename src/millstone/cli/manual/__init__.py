"""The manual, made from the parsers: manual pages, reference pages, completion in shells."""
