"""Make the typefaces of labels and reports for Hebrew, Arabic, Han and Hangul from the pieces that Fontsource packs for browsers.

    python setup/typefaces.py FOLDER

FOLDER holds the unpacked packages @fontsource/noto-sans-hebrew, -arabic, -jp, -kr and -sc (``npm pack`` fetches each), as
``noto-sans-hebrew/files`` and so on. Each script's pieces are put together into one TrueType file; those that come in one piece
keep their layout tables, by which reports shape Arabic. Of Hangul's typeface its own letters stay, of the Chinese one the Han
characters that the Japanese one has not.
"""

from __future__ import annotations

import sys
from io import BytesIO
from pathlib import Path

from fontTools.merge import Merger
from fontTools.merge import Options as MergeOptions
from fontTools.subset import Options, Subsetter
from fontTools.ttLib import TTFont

TARGET = Path(__file__).resolve().parent.parent / "jaded_ledger" / "core" / "mail" / "fonts"
LATIN = ("latin", "latin-ext", "cyrillic", "cyrillic-ext", "vietnamese", "symbols", "math", "greek")
HANGUL = frozenset([*range(0xAC00, 0xD7A4), *range(0x1100, 0x1200), *range(0x3131, 0x318F)])


def pieces(folder: Path, name: str) -> list[Path]:
    """Return a typeface's pieces of its own script, of the ordinary weight."""
    every = sorted((folder / name / "files").glob(f"{name}-*-400-normal.woff2"))
    return [path for path in every if path.name.removeprefix(f"{name}-").removesuffix("-400-normal.woff2") not in LATIN]


_LAYOUT = ["GSUB", "GPOS", "GDEF", "BASE"]


def plain(path: Path, wanted: frozenset[int] | None, *, is_alone: bool) -> tuple[BytesIO, frozenset[int]] | None:
    """Return a piece as TrueType with the wanted characters alone, and these; None where it has none of them."""
    font = TTFont(path)
    characters = frozenset(font.getBestCmap())
    kept = characters if wanted is None else characters & wanted
    if not kept:
        return None
    options = Options(layout_features=["*"] if is_alone else [], hinting=False)
    options.drop_tables = [*([] if is_alone else _LAYOUT), "STAT", "vhea", "vmtx", "VORG", "DSIG"]
    subset = Subsetter(options)
    subset.populate(unicodes=kept)
    subset.subset(font)
    font.flavor = None
    out = BytesIO()
    font.save(out)
    out.seek(0)
    return out, kept


def make(folder: Path, name: str, target: str, wanted: frozenset[int] | None = None) -> frozenset[int]:
    """Write a typeface; return its characters."""
    found: list[BytesIO] = []
    there: frozenset[int] = frozenset()
    every = pieces(folder, name)
    for path in every:
        # Pieces overlap: a character of the first is not taken again.
        own = frozenset(TTFont(path).getBestCmap()) - there
        if piece := plain(path, own if wanted is None else own & wanted, is_alone=len(every) == 1):
            found.append(piece[0])
            there |= piece[1]
    if len(found) == 1:
        (TARGET / target).write_bytes(found[0].read())
    else:
        Merger(MergeOptions(drop_tables=["vhea", "vmtx"])).merge(found).save(TARGET / target)
    print(f"{target}: {len(there):,} characters, {(TARGET / target).stat().st_size / 1e6:.1f} MB")
    return there


def main() -> None:
    folder = Path(sys.argv[1])
    make(folder, "noto-sans-hebrew", "NotoSansHebrew-Regular.ttf")
    make(folder, "noto-sans-arabic", "NotoSansArabic-Regular.ttf")
    japanese = make(folder, "noto-sans-jp", "NotoSansJP-Regular.ttf")
    make(folder, "noto-sans-kr", "NotoSansKR-Hangul-Regular.ttf", HANGUL)
    han = frozenset([*range(0x4E00, 0xA000), *range(0x3400, 0x4DC0)])
    make(folder, "noto-sans-sc", "NotoSansSC-Further-Regular.ttf", han - japanese)


if __name__ == "__main__":
    main()
