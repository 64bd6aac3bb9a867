"""Short codes on labels, of signs that every keyboard layout sends alike, with a check sign.

A scanner that reads a code types it as an American keyboard would. A, Q, W, Z, Y and M lie
elsewhere on others, digits want a shift there; vowels are left out, so that no code is a word, and
so are O and I, which are taken for digits.
"""

SIGNS = "BCDEFGHJKLNPRSTVX"
"""Seventeen, a prime: one wrong sign or two that changed places are always found."""
LENGTH = 4
MOST_CODES = len(SIGNS) ** LENGTH


def code_of(number: int) -> str:
    """Give a code.

    Four signs and a check sign.

    Parameters
    ----------
    number : int
        Any whole number; those that differ by a multiple of 83,521 have one code.

    Notes
    -----
    The check sign makes Σ i·vᵢ a multiple of 17, the signs counted from 1.

    Examples
    --------
    >>> code_of(0), code_of(1)
    ('BBBBB', 'BBBCH')
    """
    signs = []
    left = number % MOST_CODES
    for _ in range(LENGTH):
        left, at = divmod(left, len(SIGNS))
        signs.append(at)
    signs.reverse()
    so_far = sum(i * value for i, value in enumerate(signs, 1))
    check = -so_far * pow(LENGTH + 1, -1, len(SIGNS)) % len(SIGNS)
    return "".join(SIGNS[value] for value in (*signs, check))


def read_code(text: str) -> str:
    """Read a code that was typed or scanned.

    Parameters
    ----------
    text : str
        In any case, with blanks and hyphens.

    Returns
    -------
    str
        As on the label; empty when it is none, or a sign is wrong.

    Examples
    --------
    >>> read_code(" bbbch "), read_code("BBBDH")
    ('BBBCH', '')
    """
    plain = "".join(ch for ch in text.upper() if not ch.isspace() and ch not in "-–")
    if len(plain) != LENGTH + 1 or any(ch not in SIGNS for ch in plain):
        return ""
    wrong = sum(i * SIGNS.index(ch) for i, ch in enumerate(plain, 1)) % len(SIGNS)
    return "" if wrong else plain
