"""What a file of a scene can be refused for."""


class UnreadableScene(ValueError):
    """A file that gives no scene: what is wrong, where, and how to put it right."""


MOST_BYTES = 60 * 1024**2
MOST_FACES = 20_000
MOST_POINTS = 20_000
MOST_OUTLINES = 200
