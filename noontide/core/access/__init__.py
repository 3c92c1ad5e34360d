"""How much of the sun reaches planes, modules and the sky's parts, with and without shade."""
