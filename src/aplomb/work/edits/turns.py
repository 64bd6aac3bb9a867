"""Steps of a plan that the ribbon offers beyond its buttons, with their keys."""

from aplomb.core.folds.kinds import KINDS
from aplomb.core.folds.step import Step, Way

MORE_STEPS: tuple[tuple[str, str, Step], ...] = (
    *((kind.offered, kind.key, kind.step) for kind in KINDS if kind.offered),
    ("Trim all edges, 10 mm", "T", Step(Way.TRIM, trim_mm=10.0)),
)
"""Steps beyond the buttons, with their keys on the ribbon."""
