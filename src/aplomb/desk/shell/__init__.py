"""The window round the stages: rail, headline, menu, search, second opinion, files."""
