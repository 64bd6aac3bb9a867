"""Tables of answers: every row is tried, and all that are wrong are told at once."""

from collections.abc import Callable, Iterable


def wrong_rows(rows: Iterable[tuple], check: Callable[..., object]) -> list[str]:
    """Give the rows at which a check failed or fell, each with the first line of why."""
    wrong = []
    for row in rows:
        try:
            check(*row)
        except Exception as error:  # noqa: BLE001 - told with its row, by a test that fails
            wrong.append(f"{row}: {type(error).__name__} {str(error).partition(chr(10))[0]}")
    return wrong
