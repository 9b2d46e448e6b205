"""How a setting is declared, and the settings of preparation, of each analysis, of the program."""
