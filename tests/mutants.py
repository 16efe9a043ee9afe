"""How many small faults the core's own tests notice: python -m tests.mutants (bin/mutants).

A fault is one that cosmic-ray makes: another comparison, another constant, a condition turned round. Each is put into a copy
of the tree, and the tests of the core are run on it. Prints the faults that nobody noticed, and the share that somebody did with its range.
"""

from __future__ import annotations

import argparse
import difflib
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import Queue

from cosmic_ray.ast import ast_nodes, get_ast
from cosmic_ray.mutating import mutate_code
from cosmic_ray.plugins import get_operator, operator_names

from jaded_ledger.core.mail.response import share

ROOT = Path(__file__).resolve().parent.parent
CORE = ROOT / "jaded_ledger" / "core"
SECONDS = 120
# Declarations and annotations: another constant in them is another declaration, not a fault in a rule.
_NOT_MUTATED = ("criteria/catalogue/", "criteria/phrase_book", "finance/rates", "mail/sheets")
_KINDS = (
    "Comparison", "NumberReplacer", "BooleanReplacer", "AddNot", "ReplaceAndWithOr", "ReplaceOrWithAnd", "ReplaceTrueWithFalse",
    "ReplaceFalseWithTrue", "ReplaceUnaryOperator", "ReplaceBinaryOperator", "ReplaceBreakWithContinue", "ZeroIterationForLoop",
)  # fmt: skip
_OF_BITS = ("BitOr", "BitAnd", "BitXor", "Shift", "MatMul")
_NEVER_A_FAULT = ("Eq_Is", "NotEq_IsNot")
"""Small numbers and literals are one object each, so that these change nothing."""
_SLOW = ("test_text", "test_examples")
_OF_CORE_AGAINST_SOURCES = [
    ROOT / "tests" / "reference" / f"test_{name}.py" for name in ("finance", "label_sheets", "outlines", "publication_28")
]
"""Those that put the core alone to published sources; they need no database."""
_TESTS = "import django, sys, unittest; django.setup(); unittest.main(module=None, argv=['core', '-f', *sys.argv[1:]])"


@dataclass(frozen=True)
class Mutant:
    """One fault: the module, the operator that makes it, and at which of the places where it can."""

    module: Path
    operator: str
    occurrence: int

    @property
    def name(self) -> str:
        return self.module.relative_to(CORE).with_suffix("").as_posix()

    def code(self) -> str:
        return mutate_code(self.module.read_text(), get_operator(self.operator)(), self.occurrence)

    def difference(self) -> str:
        before, after = self.module.read_text().splitlines(), self.code().splitlines()
        lines = [line for line in difflib.unified_diff(before, after, n=0, lineterm="") if line[:3] not in ("---", "+++")]
        return "\n    ".join(lines)


def mutants(module: Path) -> Iterator[Mutant]:
    """Yield every fault that can be made in a module."""
    nodes = list(ast_nodes(get_ast(module.read_text())))
    for name in operator_names():
        if any(kind in name for kind in _KINDS) and not name.endswith(_NEVER_A_FAULT) and not any(part in name for part in _OF_BITS):
            operator = get_operator(name)()
            count = sum(1 for node in nodes for _ in operator.mutation_positions(node))
            yield from (Mutant(module, name, occurrence) for occurrence in range(count))


def sample(size: int, seed: int, only: list[str]) -> list[Mutant]:
    """Return some faults at random, always the same ones for a seed; each fault is as likely as any other, whatever its module."""
    rng, every = random.Random(seed), list[Mutant]()
    for module in sorted(CORE.rglob("*.py")):
        name = module.relative_to(CORE).with_suffix("").as_posix()
        if not name.startswith(_NOT_MUTATED) and (not only or name in only):
            every += mutants(module)
    return rng.sample(every, min(size, len(every)))


def modules_of_tests(mutant: Mutant) -> list[str]:
    """Return the core's test modules: first those that import what has the fault, and the quick ones before the others."""
    dotted = f"jaded_ledger.core.{mutant.name.replace('/', '.')}"
    ranks = {
        f"tests.{path.parent.name}.{path.stem}": (dotted not in path.read_text(), path.stem in _SLOW, path.stem)
        for path in (*(ROOT / "tests" / "core").glob("test_*.py"), *_OF_CORE_AGAINST_SOURCES)
    }
    return sorted(ranks, key=ranks.__getitem__)


def fails(copy: Path, modules: list[str]) -> bool:
    """Return whether a test fails on a copy of the tree."""
    environment = os.environ | {"PYTHONPATH": str(copy), "DJANGO_SETTINGS_MODULE": "tests.settings", "PYTHONDONTWRITEBYTECODE": "1"}
    try:
        command = [sys.executable, "-c", _TESTS, *modules]
        ran = subprocess.run(command, cwd=copy, env=environment, capture_output=True, timeout=SECONDS, check=False)
        return ran.returncode != 0
    except subprocess.TimeoutExpired:
        return True


def is_noticed(mutant: Mutant, copy: Path) -> bool:
    """Return whether a test fails on a copy of the tree that has the fault."""
    path = copy / mutant.module.relative_to(ROOT)
    whole = path.read_text()
    path.write_text(mutant.code())
    try:
        return fails(copy, modules_of_tests(mutant))
    finally:
        path.write_text(whole)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--sample", type=int, default=200)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--processes", type=int, default=os.cpu_count() or 1)
    parser.add_argument("only", nargs="*", help="modules of the core, such as title/sales")
    given = parser.parse_args()
    chosen = sample(given.sample, given.seed, given.only)
    copies: Queue[Path] = Queue()
    with tempfile.TemporaryDirectory() as folder:
        for number in range(given.processes):
            copy = Path(folder) / str(number)
            for part in ("jaded_ledger", "tests"):
                shutil.copytree(ROOT / part, copy / part, ignore=shutil.ignore_patterns("__pycache__"))
            copies.put(copy)
        if fails(copy, modules_of_tests(chosen[0])):
            sys.exit("The core's tests fail without a fault: mend them first.")

        def tried(mutant: Mutant) -> tuple[Mutant, bool]:
            copy = copies.get()
            try:
                return mutant, is_noticed(mutant, copy)
            finally:
                copies.put(copy)

        noticed, every = Counter[str](), Counter[str]()
        with ThreadPoolExecutor(given.processes) as pool:
            for mutant, was in pool.map(tried, chosen):
                every[mutant.name] += 1
                noticed[mutant.name] += was
                if not was:
                    print(f"  {mutant.name}: {mutant.operator.partition('/')[2]}\n    {mutant.difference()}", flush=True)
    for name in every:
        print(f"{noticed[name]:4} of {every[name]:3}  {name}")
    if found := share(noticed.total(), every.total()):
        print(f"{found.count} of {found.of} noticed: {found.value:.1%} (95% range {found.low:.1%} to {found.high:.1%})")


if __name__ == "__main__":
    main()
