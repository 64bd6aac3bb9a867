"""How the house is built: what a newcomer may rely on, held by tests."""

import ast
import os
import re
import subprocess
import sys
from functools import cache
from pathlib import Path

import pytest

from aplomb.work.commands import PAGES, STAGES

ROOT = Path(__file__).resolve().parent.parent
SOURCE = ROOT / "src" / "aplomb"
FILES = sorted(SOURCE.rglob("*.py"))
LONGEST_FUNCTION = 60
MOST_METHODS = 25
LONGEST_SESSION = 150


@cache
def tree(path):
    """Give the syntax tree of a file, read once."""
    return ast.parse(path.read_text(encoding="utf-8"))


@cache
def nodes_of(path):
    """Give all nodes of a file, walked once."""
    return list(ast.walk(tree(path)))


def functions(path):
    """Give each function of a file with the lines of its body."""
    lines = path.read_text(encoding="utf-8").split("\n")
    for node in nodes_of(path):
        if isinstance(node, ast.FunctionDef):
            told = ast.get_docstring(node) is not None
            yield node, lines[node.body[0].end_lineno if told else node.lineno : node.end_lineno]


def test_a_function_fits_a_screen_or_says_why_it_is_whole():
    long = [
        f"{path.relative_to(SOURCE)}:{node.name}"
        for path in FILES
        for node, lines in functions(path)
        if len(lines) > LONGEST_FUNCTION and not any("# whole: " in line for line in lines)
    ]
    assert long == []


def test_no_class_has_too_many_doors():
    many = [
        f"{path.relative_to(SOURCE)}:{node.name}"
        for path in FILES
        for node in nodes_of(path)
        if isinstance(node, ast.ClassDef)
        and sum(
            isinstance(each, ast.FunctionDef) and not each.name.startswith("_")
            for each in node.body
        )
        > MOST_METHODS
    ]
    assert many == []


def test_the_session_is_thin():
    lines = (SOURCE / "desk" / "session.py").read_text(encoding="utf-8").split("\n")
    assert len(lines) < LONGEST_SESSION


@pytest.mark.parametrize("room", ["core", "work", "book", "exchange", "devices", "verbs"])
def test_a_room_works_where_qt_is_not_installed(room):
    """Every module of it is imported in a process that refuses Qt."""
    names = [
        ".".join(path.relative_to(SOURCE.parent).with_suffix("").parts)
        for path in (SOURCE / room).rglob("*.py")
        if path.name != "__init__.py"
    ]
    code = (
        "import importlib, sys\n"
        "class NoQt:\n"
        "    def find_spec(self, name, path=None, target=None):\n"
        "        if name.split('.')[0] in ('PySide6', 'shiboken6'):\n"
        "            raise ImportError('Qt is not installed here')\n"
        "sys.meta_path.insert(0, NoQt())\n"
        f"for name in {names!r}:\n"
        "    importlib.import_module(name)\n"
    )
    done = subprocess.run(
        [sys.executable, "-c", code],
        env=os.environ | {"PYTHONPATH": str(ROOT / "src")},
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr


def test_the_workbench_does_its_work_without_qt(tmp_path):
    """Open a book, fill it, change a formula, undo, close, open again."""
    code = (
        "import sys\n"
        "from pathlib import Path\n"
        "from msgspec.structs import replace\n"
        "from aplomb.assets.shipped import reference\n"
        "from aplomb.book.book import Book\n"
        "from aplomb.work.open_book.demo import fill_with_demo\n"
        "from aplomb.work.open_book.workbench import Workbench\n"
        "path = Path(sys.argv[1])\n"
        "work = Workbench(Book(path), reference())\n"
        "fill_with_demo(work)\n"
        "work.shelf.edit('thinner', lambda f: replace(f, sheet_mm=2.0))\n"
        "work.shelf.edit('thicker', lambda f: replace(f, sheet_mm=5.0))\n"
        "work.journal.undo()\n"
        "assert work.close()\n"
        "again = Workbench(Book(path), reference())\n"
        "assert again.shelf.formula.sheet_mm == 2.0\n"
        "assert len(again.shelf.entries) == 7\n"
        "again.close()\n"
        "assert not any(name.startswith('PySide6') for name in sys.modules)\n"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, str(tmp_path / "a.aplomb")],
        env=os.environ | {"PYTHONPATH": str(ROOT / "src")},
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr


def test_every_page_of_the_table_has_its_file_in_a_room_of_the_desk():
    for page in PAGES:
        module, _, name = page.made_by.partition(":")
        path = SOURCE.parent / (module.replace(".", "/") + ".py")
        found = re.search(
            rf'^class {name}\(Page\):.*?^    KEY = "(\w+)"$',
            path.read_text(encoding="utf-8"),
            re.MULTILINE | re.DOTALL,
        )
        assert found is not None, page.key
        assert found[1] == page.key
        assert page.room in dict(STAGES)


def test_public_functions_of_core_and_work_say_what_they_do_and_what_they_raise():
    """In one line, or with what is not seen from names and units; the page of rules says theirs."""
    bare = [
        f"{path.relative_to(SOURCE)}:{node.name}"
        for room in ("core", "work")
        for path in (SOURCE / room).rglob("*.py")
        if "opinion" not in path.parts and path.name != "cold_rules.py"
        for node in tree(path).body
        if isinstance(node, ast.FunctionDef)
        and not node.name.startswith("_")
        and not _tells_all(node)
    ]
    assert bare == []


def _tells_all(node):
    told = ast.get_docstring(node) or ""
    raises = [
        ast.unparse(each.exc).partition("(")[0]
        for each in ast.walk(node)
        if isinstance(each, ast.Raise) and each.exc is not None
    ]
    own = any(name.endswith("Error") and name[0].isupper() for name in raises)
    return bool(told) and (not own or bool(re.search(r"\braise", told, re.IGNORECASE)))


SECTIONS = re.compile(
    r"^(?:Parameters|Attributes|Returns)\n-+\n(.*?)(?=\n\n|\Z)", re.MULTILINE | re.DOTALL
)


def test_a_section_of_a_docstring_says_more_than_the_signature():
    """An entry has a line of its own below it, or is left out."""
    idle = [
        f"{path.relative_to(SOURCE)}:{node.name}: {lines[i]}"
        for path in FILES
        for node in nodes_of(path)
        if isinstance(node, ast.FunctionDef | ast.ClassDef)
        for section in SECTIONS.finditer(ast.get_docstring(node) or "")
        for lines in [section[1].split("\n")]
        for i in range(len(lines))
        if not lines[i].startswith(" ")
        and "(" not in lines[i]
        and (i + 1 == len(lines) or not lines[i + 1].startswith(" "))
    ]
    assert idle == []


def test_a_width_or_a_theme_is_not_handed_on():
    """There is one look; a widget that took a theme would have to pass it on."""
    taking = [
        f"{path.relative_to(SOURCE)}:{node.name}"
        for path in (SOURCE / "desk").rglob("*.py")
        if "drawings" not in path.parts
        for node in nodes_of(path)
        if isinstance(node, ast.FunctionDef)
        and any(arg.arg == "theme" for arg in (*node.args.args, *node.args.kwonlyargs))
    ]
    assert taking == []


def test_tests_mirror_the_rooms():
    rooms = {"core", "work", "book", "exchange", "devices", "verbs", "desk"}
    stray = [
        path.name
        for path in (ROOT / "tests").iterdir()
        if path.is_dir() and path.name not in rooms | {"finders", "__pycache__"}
    ]
    assert stray == []
    for room in ("core", "desk"):
        there = {path.name for path in (ROOT / "tests" / room).iterdir() if path.is_dir()}
        assert there - {"__pycache__"} <= {path.name for path in (SOURCE / room).iterdir()}


def test_no_file_of_tests_is_empty_or_asserts_nothing():
    idle = []
    for path in (ROOT / "tests").rglob("test_*.py"):
        nodes = nodes_of(path)
        tests = any(isinstance(n, ast.FunctionDef) and n.name.startswith("test_") for n in nodes)
        tests = tests or any(isinstance(n, ast.ClassDef) for n in nodes)  # a state machine
        if not tests or not any(isinstance(n, ast.Assert) for n in nodes):
            idle.append(str(path.relative_to(ROOT)))
    assert idle == []


def test_no_property_of_the_toolkit_that_begins_with_i_is_given_as_a_keyword():
    """In a Turkish locale the binding does not know it, and nothing starts: see kit/timers.py."""
    given = [
        f"{path.relative_to(SOURCE)}:{node.lineno}"
        for path in FILES
        for node in nodes_of(path)
        if isinstance(node, ast.Call)
        and re.match(r"Q[A-Z]", ast.unparse(node.func).rpartition(".")[2])
        and any((keyword.arg or "").startswith("i") for keyword in node.keywords)
    ]
    assert given == []


def test_what_a_page_says_is_pressed_is_there_to_be_pressed():
    """What stands slanted in docs is a command, a button or a page, under the name it has there."""
    said = {
        each.value.removesuffix("…").lower()
        for path in [*(SOURCE / "desk").rglob("*.py"), SOURCE / "work" / "commands.py"]
        for each in nodes_of(path)
        if isinstance(each, ast.Constant) and isinstance(each.value, str)
    }
    unknown = [
        f"{path.name}: {words}"
        for path in sorted((ROOT / "docs").glob("*.md"))
        if path.name != "second-opinion.md"  # there it is the standing of a rule
        for words in re.findall(r"(?<![*\w])\*([^*\n]+)\*(?![*\w])", path.read_text("utf-8"))
        if words.lower() not in said
    ]
    assert unknown == []


MOST_PRIVATE = 60


DERIVES = {
    "aplomb.core.batch.scale": {"scale"},
    "aplomb.core.batch.sized": {"sized_batch"},
    "aplomb.core.batch.scaled": {"rounded"},
    "aplomb.core.batch.mixes": {"dealt", "mixes_for", "even_parts"},
    "aplomb.core.batch.cutting": {"best_cut", "rolled_of"},
    "aplomb.core.batch.cut_search": {"sheets_for", "sheets_within", "sheets_of_mass"},
    "aplomb.core.batch.trays": {"on_trays", "batch_trays"},
    "aplomb.core.batch.blocks": {"largest_block_ml", "sized_block", "enclosed_block"},
    "aplomb.core.folds.sizes": {"worked_sizes", "natural_width"},
    "aplomb.core.folds.enclosing": {"enclosing"},
    "aplomb.core.kitchen.demand": {"split_blocks"},
    "aplomb.core.make.queue": {"loads_of_trays"},
    "aplomb.core.make.minutes": {"hands_min", "WORK"},
}
"""What works a size, a mass, a count, a load or a minute out of others."""
VIEWS = ("desk", "work", "exchange", "verbs", "cli.py")


def test_no_view_works_out_a_size_a_mass_a_count_a_load_or_a_minute():
    """They choose, group and draw what the study and the make say; else two would disagree."""
    met = [
        f"{path.relative_to(SOURCE)}:{node.lineno}: {name.name}"
        for path in FILES
        if path.relative_to(SOURCE).parts[0] in VIEWS
        for node in nodes_of(path)
        if isinstance(node, ast.ImportFrom)
        for name in node.names
        if name.name in DERIVES.get(node.module or "", ())
    ]
    assert met == []


def test_tests_look_at_what_is_public():
    """A test that reaches inside of what it tests is in the way of whoever mends that."""
    reached = [
        f"{path.relative_to(ROOT)}:{node.lineno}: {node.attr}"
        for path in sorted((ROOT / "tests").rglob("*.py"))
        for node in nodes_of(path)
        if isinstance(node, ast.Attribute)
        and re.match(r"_[a-z]", node.attr)
        and not (isinstance(node.value, ast.Name) and node.value.id in ("self", "cls"))
    ]
    assert len(reached) <= MOST_PRIVATE, "\n".join(reached)


def test_what_tests_share_is_typed():
    """Fixtures, finders and other helpers say what they take and give."""
    shared = [
        path
        for path in (ROOT / "tests").rglob("*.py")
        if not path.name.startswith("test_") and path.name != "__init__.py"
    ]
    bare = [
        f"{path.relative_to(ROOT)}:{node.lineno}: {node.name}"
        for path in shared
        for node in nodes_of(path)
        if isinstance(node, ast.FunctionDef)
        and (
            node.returns is None
            or any(
                arg.annotation is None and arg.arg not in ("self", "cls")
                for arg in (*node.args.args, *node.args.kwonlyargs)
            )
        )
    ]
    assert len(shared) > 15
    assert bare == []
