"""What is collected: modules of the program are read for the examples in their docstrings."""


def pytest_ignore_collect(collection_path):
    """Modules without an example are not read for examples: half of the collecting."""
    if "src" in collection_path.parts and collection_path.suffix == ".py":
        return None if ">>>" in collection_path.read_text("utf-8") else True
    return None
