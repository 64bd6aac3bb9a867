"""Photographs as files: taken in whole, scaled down, or refused in words."""

import os
import random
import socket
import struct
import zlib
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PySide6.QtGui import QImage

from aplomb.assets import asset
from aplomb.core.base.errors import AplombError
from aplomb.desk.trials import photo_file
from aplomb.desk.trials.photo_file import opened, take_in


def test_a_picture_of_200_megapixels_is_not_opened(qapp, tmp_path, monkeypatch):
    """A small file may say that it is huge: its head alone is read."""

    def chunk(kind, data):
        body = kind + data
        return struct.pack(">I", len(data)) + body + struct.pack(">I", zlib.crc32(body))

    head = struct.pack(">IIBBBBB", 20_000, 10_000, 8, 0, 0, 0, 0)
    path = tmp_path / "huge.png"
    path.write_bytes(
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", b"x") + chunk(b"IEND", b"")
    )
    with pytest.raises(AplombError, match="200 million pixels"):
        take_in(path, original=False)


@pytest.mark.parametrize(("wide", "high"), [(1, 30_000), (30_000, 1), (1, 1), (3, 5_000)])
def test_a_picture_of_any_shape_is_taken_or_refused(qapp, tmp_path, wide, high):
    image = QImage(wide, high, QImage.Format.Format_RGB32)
    image.fill(0)
    path = tmp_path / "line.png"
    assert image.save(str(path))
    try:
        taken = take_in(path, original=False)
    except AplombError as error:
        assert "line.png" in str(error)
        return
    for body in (taken.small, taken.body):
        assert not opened(body).isNull()


@pytest.mark.qt_log_ignore(".")  # the decoder says what it finds
@settings(max_examples=60, deadline=None)
@given(
    st.sampled_from(["cut", "changed", "random"]),
    st.integers(0, 2**31),
    st.sampled_from(["a.jpg", "a.png", "no ending", "ä.webp"]),
)
def test_a_broken_photograph_is_taken_or_refused_in_words(qapp, tmp_path_factory, how, seed, name):
    """Cut off, changed anywhere, or no picture at all: never anything but words."""
    rng = random.Random(seed)
    data = bytearray(asset("pictures", "cut.jpg").read_bytes())
    match how:
        case "cut":
            del data[rng.randrange(len(data)) :]
        case "changed":
            for _ in range(rng.randint(1, 40)):
                data[rng.randrange(min(len(data), 2000))] = rng.randrange(256)
        case _:
            data = bytearray(rng.randbytes(rng.randint(0, 4000)))
    path = tmp_path_factory.mktemp("photo") / name
    path.write_bytes(data)
    try:
        taken = take_in(path, original=True)
    except AplombError as error:
        assert str(error)
        return
    assert min(taken.wide, taken.high) > 0
    assert taken.body[:2] == b"\xff\xd8"


@pytest.mark.parametrize("share", [0.02, 0.3, 0.9, 0.999])
def test_a_jpeg_that_is_cut_off_anywhere_is_refused(qapp, tmp_path, share):
    raw = asset("pictures", "cut.jpg").read_bytes()
    path = tmp_path / "cut.jpg"
    path.write_bytes(raw[: int(len(raw) * share)])
    with pytest.raises(
        AplombError, match=r"cut.jpg is cut off: the rest of the picture is missing"
    ):
        take_in(path, original=False)


def test_what_is_no_file_is_told_and_nobody_waits(qapp, tmp_path):
    os.mkfifo(tmp_path / "pipe.jpg")
    with socket.socket(socket.AF_UNIX) as line:
        line.bind(str(tmp_path / "socket.jpg"))
        (tmp_path / "folder.jpg").mkdir()
        for name, words in (
            ("pipe.jpg", "it is a pipe"),
            ("folder.jpg", "it is a folder"),
            ("socket.jpg", "it is a socket or a device"),
            ("gone.jpg", "there is no such file"),
            ("\0.jpg", "that name"),
        ):
            with pytest.raises(AplombError, match=words):
                take_in(tmp_path / name, original=False)
    with pytest.raises(AplombError, match="it is a device"):
        take_in(Path("/dev/zero"), original=False)


def test_a_name_that_is_no_utf_8_is_shown_as_far_as_it_can_be(qapp, tmp_path):
    """It goes into the book, onto labels and into SQLite, which take whole signs only."""
    path = tmp_path / os.fsdecode(b"gr\xfcn.jpg")
    path.write_bytes(asset("pictures", "cut.jpg").read_bytes())
    assert take_in(path, original=False).name == "gr\ufffdn.jpg"
    path.write_bytes(b"x")
    with pytest.raises(AplombError, match="^gr\ufffdn.jpg is not a picture"):
        take_in(path, original=False)


@pytest.mark.qt_log_ignore("allocation limit")
def test_a_picture_too_deep_for_memory_is_not_called_cut_off(qapp, tmp_path, monkeypatch):
    monkeypatch.setattr(photo_file, "MOST_MEMORY_MB", 1)
    image = QImage(900, 600, QImage.Format.Format_RGBA64)
    image.fill(0)
    path = tmp_path / "deep.png"
    assert image.save(str(path))
    with pytest.raises(AplombError, match="takes 4 MB when it is opened, and up to 1 MB"):
        take_in(path, original=False)
