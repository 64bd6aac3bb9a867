"""The Qt interface. Every class of it is guarded as it is made: see `kit.guard`."""

from aplomb.desk.kit import binding

binding.load()

from aplomb.desk.kit import guard  # noqa: E402  # the toolkit is loaded before it is used

guard.spread()
