"""The Qt interface. Every class of it is guarded as it is made: see `kit.guard`."""

from aplomb.desk.kit import guard

guard.spread()
