"""A value with two ends, as people give one: 15 to 20 minutes, 180 to 190 °C."""

from msgspec import Struct

from aplomb.core.base.figures import num


class Span(Struct, frozen=True, forbid_unknown_fields=True):
    """A range that was given, in the unit of what it belongs to.

    Attributes
    ----------
    low, high : float
        Its ends; `high` is the larger.
    """

    low: float
    high: float

    @property
    def middle(self) -> float:
        """What is counted on where one number is needed."""
        return (self.low + self.high) / 2

    def text(self, spec: str = ".6g") -> str:
        """Write it as it is read: ``15–20``.

        Examples
        --------
        >>> Span(15, 20).text()
        '15–20'
        """
        return f"{num(self.low, spec)}–{num(self.high, spec)}"
