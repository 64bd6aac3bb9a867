"""Steps of a plan that the ribbon offers beyond its buttons, with their keys."""

from aplomb.core.folds.plan import Step, Way

MORE_STEPS: tuple[tuple[str, str, Step], ...] = (
    ("Double, ends off the middle", "O", Step(Way.FOLD, 4, off_centre=True)),
    ("Five-fold", "5", Step(Way.FOLD, 5)),
    ("Six-fold", "6", Step(Way.FOLD, 6)),
    ("Quarter fold", "Q", Step(Way.QUARTER, 4)),
    ("Cut in four and stack", "S", Step(Way.STACK, 4)),
    ("Roll up", "R", Step(Way.ROLL)),
    ("Trim all edges, 10 mm", "T", Step(Way.TRIM, trim_mm=10.0)),
)
"""Steps beyond the buttons, with their keys on the ribbon."""
