"""From written forms to terms and their counts: the term map, word lists, n-grams, phrases, frequency lists."""
