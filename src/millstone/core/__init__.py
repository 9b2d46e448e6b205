"""Computation only: text to numbers, numbers to tables. No files, no printing, no plotting.

The way: ``scan.scan`` -> ``corpus.Corpus`` -> ``terms.map_terms`` -> ``counts.count`` -> one of
``frequency.frequency_list``, ``keyness.keyness``, ``logodds.log_odds``; and ``categories.categories``.
"""
