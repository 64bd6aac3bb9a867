"""The binding of the toolkit: which releases can be used, and that it leaves importing alone."""

import os
import subprocess
import sys
from pathlib import Path

import aplomb

SRC = Path(aplomb.__file__).parents[1]


def test_a_hundred_thousand_void_calls_do_no_harm():
    """Why PySide6 is pinned below 6.12, which drops a reference to None on every such call."""
    code = (
        "from PySide6.QtCore import QObject, QTimer\n"
        "o, t = QObject(), QTimer()\n"
        "for i in range(100_000):\n"
        "    o.blockSignals(False); o.setObjectName('x'); t.setInterval(i)\n"
        "import gc; gc.collect(); print('sound')\n"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    assert done.stdout.strip() == "sound"


def test_importing_is_pythons_own_once_the_toolkit_is_loaded():
    code = (
        "import builtins, linecache\n"
        "plain = builtins.__import__\n"
        "import aplomb.desk.kit.fields, aplomb.core.study.study, PySide6.QtCore\n"
        "assert PySide6.QtCore.QObject().objectName() == ''\n"
        "print(builtins.__import__ is plain, [n for n in linecache.cache if 'aplomb' in n])\n"
    )
    done = subprocess.run(
        [sys.executable, "-c", code],
        env=os.environ | {"PYTHONPATH": str(SRC)},
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.stdout.strip() == "True []", done.stderr
