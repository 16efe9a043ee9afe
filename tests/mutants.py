"""How many small faults the core's own tests notice: python -m tests.mutants (bin/mutants).

A fault is one that cosmic-ray makes: another comparison, another constant, a condition turned round. Each is put into a copy
of the tree, and the tests of the core are run on it. Prints the faults that nobody noticed, and the share that somebody did.
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

ROOT = Path(__file__).resolve().parent.parent
CORE = ROOT / "jaded_ledger" / "core"
NAMED = (
    "finance/debts", "distress/signals", "market/on_market", "title/sales", "market/land", "market/offers", "facts/findings",
    "facts/basis", "facts/offered",
)  # fmt: skip
"""Modules whose boundaries matter most: each has at least so many faults in the sample."""
OF_EACH = 20
SECONDS = 120
# Declarations and annotations: another constant in them is another declaration, not a fault in a rule.
_NOT_MUTATED = ("criteria/catalogue/", "criteria/phrase_book", "finance/rates", "mail/sheets")
_KINDS = (
    "Comparison", "NumberReplacer", "BooleanReplacer", "AddNot", "ReplaceAndWithOr", "ReplaceOrWithAnd", "ReplaceTrueWithFalse",
    "ReplaceFalseWithTrue", "ReplaceUnaryOperator", "ReplaceBinaryOperator", "ReplaceBreakWithContinue", "ZeroIterationForLoop",
)  # fmt: skip
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
        if any(kind in name for kind in _KINDS) and not any(shape in name for shape in ("BitOr", "BitAnd", "BitXor", "Shift", "MatMul")):
            operator = get_operator(name)()
            count = sum(1 for node in nodes for _ in operator.mutation_positions(node))
            yield from (Mutant(module, name, occurrence) for occurrence in range(count))


def sample(size: int, seed: int, only: list[str]) -> list[Mutant]:
    """Return some faults at random, always the same ones for a seed, among them enough of each module named."""
    rng, chosen, rest = random.Random(seed), [], []
    for module in sorted(CORE.rglob("*.py")):
        every = list(mutants(module))
        name = module.relative_to(CORE).with_suffix("").as_posix()
        if not every or name.startswith(_NOT_MUTATED) or (only and name not in only):
            continue
        rng.shuffle(every)
        enough = OF_EACH if name in NAMED or only else 0
        chosen += every[:enough]
        rest += every[enough:]
    rng.shuffle(rest)
    return chosen + rest[: max(0, size - len(chosen))]


def modules_of_tests() -> list[str]:
    """Return the core's test modules, the quick ones first."""
    names = [f"tests.core.{path.stem}" for path in (ROOT / "tests" / "core").glob("test_*.py")]
    return sorted(names, key=lambda name: (name.endswith(("test_text", "test_examples")), name))


def is_noticed(mutant: Mutant, copy: Path) -> bool:
    """Return whether a test fails on a copy of the tree that has the fault."""
    path = copy / mutant.module.relative_to(ROOT)
    whole = path.read_text()
    path.write_text(mutant.code())
    environment = os.environ | {"PYTHONPATH": str(copy), "DJANGO_SETTINGS_MODULE": "tests.settings", "PYTHONDONTWRITEBYTECODE": "1"}
    try:
        command = [sys.executable, "-c", _TESTS, *modules_of_tests()]
        ran = subprocess.run(command, cwd=copy, env=environment, capture_output=True, timeout=SECONDS, check=False)
        return ran.returncode != 0
    except subprocess.TimeoutExpired:
        return True
    finally:
        path.write_text(whole)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--sample", type=int, default=400)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--processes", type=int, default=os.cpu_count() or 1)
    parser.add_argument("only", nargs="*", help="modules of the core, such as title/sales")
    given = parser.parse_args()
    chosen = sample(given.sample if not given.only else 0, given.seed, given.only)
    copies: Queue[Path] = Queue()
    with tempfile.TemporaryDirectory() as folder:
        for number in range(given.processes):
            copy = Path(folder) / str(number)
            for part in ("jaded_ledger", "tests"):
                shutil.copytree(ROOT / part, copy / part, ignore=shutil.ignore_patterns("__pycache__"))
            copies.put(copy)

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
    print(f"{noticed.total()} of {every.total()} noticed: {100 * noticed.total() / every.total():.1f} %")


if __name__ == "__main__":
    main()
