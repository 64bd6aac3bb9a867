"""Where the keyboard goes: into a part of the window, and from part to part by F6."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget


def focus_next_part(
    parts: Sequence[QWidget],
    main: QWidget,
    enter: Callable[[], None],
    focus: QWidget | None,
    by: int,
) -> None:
    """Put the keyboard into the next part that can take it.

    Parameters
    ----------
    parts : sequence of QWidget
        In their order.
    main : QWidget
        The one of them that knows itself where one begins.
    enter : callable
        Begins there.
    focus : QWidget or None
        What has the keyboard now; with none, `main` is taken to.
    by : int
        1 for the next part, -1 for the one before.
    """
    here = next(
        (i for i, p in enumerate(parts) if focus and (p is focus or p.isAncestorOf(focus))),
        parts.index(main),
    )
    for offset in range(1, len(parts) + 1):
        part = parts[(here + by * offset) % len(parts)]
        if part is main:
            begin_in(main, enter)
            return
        target = _first_in(part)
        if target is not None:
            target.setFocus(Qt.FocusReason.TabFocusReason)
            return


def begin_in(part: QWidget, enter: Callable[[], None]) -> None:
    """Put the keyboard where one begins, or where that is hidden or grey, into what is there."""
    enter()
    focus = part.window().focusWidget()
    held = focus is not None and part.isAncestorOf(focus) and can_hold(focus)
    target = None if held or not part.isVisible() else _first_in(part)
    if target is not None:
        target.setFocus(Qt.FocusReason.TabFocusReason)


def can_hold(widget: QWidget) -> bool:
    """Tell whether keys that are pressed reach a widget that has the focus."""
    return widget.isVisible() and widget.isEnabled()


def _first_in(part: QWidget) -> QWidget | None:
    return next(
        (
            w
            for w in (part, *part.findChildren(QWidget))
            if can_hold(w) and w.focusPolicy() & Qt.FocusPolicy.TabFocus
        ),
        None,
    )
