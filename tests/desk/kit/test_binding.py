"""Why PySide6 is pinned below 6.12: that release drops a reference to None on every call that
returns nothing and aborts the interpreter after some thousand of them."""

import subprocess
import sys


def test_a_hundred_thousand_void_calls_do_no_harm():
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
