"""What the workbench announces, to whoever listens: plain calls, no toolkit."""

from collections.abc import Callable


class Announcement:
    """One thing that can happen; who connects is called when it does, in that order.

    Examples
    --------
    >>> said = Announcement()
    >>> said.connect(print)
    >>> said("Undone: salt 20 g")
    Undone: salt 20 g
    """

    def __init__(self) -> None:
        self._calls: list[Callable[..., object]] = []

    def connect(self, call: Callable[..., object]) -> None:
        """Call this too from now on."""
        self._calls.append(call)

    def disconnect(self, call: Callable[..., object]) -> None:
        """Call this no longer."""
        self._calls.remove(call)

    def __call__(self, *what: object) -> None:
        """Tell all that are connected."""
        for call in tuple(self._calls):
            call(*what)


def tell_now(*announcements: Callable[[], object]) -> None:
    """Tell at once; a desk may put it off while its toolkit is in the middle of something."""
    for each in announcements:
        each()


class Announcements:
    """All that the workbench announces.

    Parameters
    ----------
    tell : callable
        Is given announcements to be made, now or soon, each once.

    Attributes
    ----------
    leaving
        Another formula or book is about to be in hand, or something to be undone: what is being
        typed must be taken now, for the formula that it was typed for.
    studied
        The formula in hand, or what follows from it, is another.
    shelf_changed
        A formula came, went, moved or was renamed.
    reference_changed
        The pantry or the house is another.
    trouble_changed
        What stands in the way of writing is another.
    said : str
        Something worth a line to the user.
    closing
        The book is about to be closed: what writes to it beside must end.
    measures_changed
        Sentences and captions are written in other measures from now on.
    """

    def __init__(self, tell: Callable[..., object] = tell_now) -> None:
        self.tell = tell
        self.leaving = Announcement()
        self.studied = Announcement()
        self.shelf_changed = Announcement()
        self.reference_changed = Announcement()
        self.trouble_changed = Announcement()
        self.said = Announcement()
        self.closing = Announcement()
        self.measures_changed = Announcement()

    def pass_on(self, to: object) -> None:
        """Pass everything on to the signals of the same names that something of a toolkit has."""
        for name, announcement in vars(self).items():
            emit = getattr(getattr(to, name, None), "emit", None)
            if isinstance(announcement, Announcement) and emit is not None:
                announcement.connect(emit)

    def everything(self) -> None:
        """Tell that all is another: another book, or a step back in it."""
        self.tell(self.reference_changed, self.shelf_changed, self.studied, self.trouble_changed)
