"""What the verbs share: their refusal, and how much pasted text they take."""

MOST_TEXT = 2_000_000  # characters, of a year of hours with dates beside them


class ImpossibleAct(ValueError):
    """What was asked for cannot be done to this design; the words say why."""
