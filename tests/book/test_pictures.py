"""Photographs in the book: kept, read, let go, rescued with the rest, refused when too large."""

import pytest

from aplomb.book.book import Book, BookError
from aplomb.book.pictures import LARGEST_BYTES, PictureRow


def row(key, name="cut.jpg", *, original=False):
    return PictureRow(key, name, "2026-11-26T10:00:00+00:00", 1200, 900, has_original=original)


@pytest.fixture
def book(tmp_path):
    book = Book(tmp_path / "a.aplomb")
    yield book
    book.close()


def test_a_picture_comes_back_as_it_was_kept(book):
    book.pictures.keep(row("p1"), b"small", b"body")
    book.pictures.keep(row("p2", original=True), b"s", b"b", b"raw")
    assert list(book.pictures.all()) == ["p1", "p2"]
    assert book.pictures.all()["p2"] == row("p2", original=True)
    assert book.pictures.small("p1") == b"small"
    assert book.pictures.original("p1") == b""
    assert book.pictures.original("p2") == b"raw"


def test_what_is_not_there_is_empty(book):
    assert book.pictures.body("none") == b""


def test_a_picture_too_large_is_refused_and_nothing_is_kept(book):
    with pytest.raises(BookError, match="60 MB"):
        book.pictures.keep(row("p"), b"", b"x", bytes(LARGEST_BYTES))
    assert book.pictures.all() == {}


def test_pictures_go_with_the_rest_into_a_new_book(book, tmp_path):
    book.pictures.keep(row("p1"), b"small", b"body", b"raw")
    other = Book(tmp_path / "b.aplomb")
    other.fill([], [], book.rows_to_carry())
    assert other.pictures.original("p1") == b"raw"
    other.close()


def test_a_book_that_can_only_be_read_says_so(tmp_path):
    book = Book(tmp_path / "c.aplomb")
    book.file.read_only = "only to be read"
    with pytest.raises(BookError):
        book.pictures.keep(row("p"), b"", b"x")
    book.close()
