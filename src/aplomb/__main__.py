"""Start Aplomb as ``python -m aplomb``."""

import sys

from aplomb.cli import main

sys.exit(main())
