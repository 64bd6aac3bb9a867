"""Make the alarm of the bench: two soft strokes of a bell, shipped as a file of its own."""

import math
import struct
import sys
import wave
from pathlib import Path

RATE = 22_050
STROKES = ((0.0, 880.0), (0.28, 1174.7))
"""When each begins, and its tone [s, Hz]."""
LONG_S = 1.1


def main() -> None:
    """Write it."""
    where = Path(__file__).resolve().parents[1] / "src/aplomb/assets/sounds/alarm.wav"
    where.parent.mkdir(exist_ok=True)
    samples = []
    for i in range(int(RATE * LONG_S)):
        now = i / RATE
        value = 0.0
        for begins, tone in STROKES:
            if now >= begins:
                age = now - begins
                fade = math.exp(-age * 5.0) * min(1.0, age * 200)
                for over, loud in ((1.0, 1.0), (2.0, 0.35), (2.76, 0.2)):
                    value += loud * fade * math.sin(2 * math.pi * tone * over * age)
        samples.append(round(max(-1.0, min(1.0, value / 2.4)) * 32_000))
    with wave.open(str(where), "wb") as out:
        out.setnchannels(1)
        out.setsampwidth(2)
        out.setframerate(RATE)
        out.writeframes(struct.pack(f"<{len(samples)}h", *samples))
    sys.stdout.write(f"{where.name}: {where.stat().st_size} bytes\n")


if __name__ == "__main__":
    main()
