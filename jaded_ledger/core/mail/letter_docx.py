"""A letter as a document for a word processor's mail merge: its fields are merge fields (ECMA-376 part 1, 17.16.5.35, MERGEFIELD)."""

from __future__ import annotations

from collections.abc import Mapping
from io import BytesIO

from docx import Document
from docx.oxml import OxmlElement
from docx.oxml.ns import qn
from docx.shared import Inches, Pt
from docx.text.paragraph import Paragraph

from jaded_ledger.core.mail.letters import Letter, Place


def write_docx(letter: Letter, columns: Mapping[Place, str]) -> bytes:
    """Return the document; ``columns`` are the names of the merge data's columns by place."""
    document = Document()
    page = document.sections[0]
    page.page_width, page.page_height = Inches(8.5), Inches(11)
    document.styles["Normal"].font.size = Pt(11)
    document.core_properties.title = letter.name
    for line in letter.lines:
        paragraph = document.add_paragraph()
        paragraph.paragraph_format.space_after = Pt(0)
        for part in line:
            if isinstance(part, str):
                paragraph.add_run(part)
            else:
                _add_field(paragraph, columns[part])
    out = BytesIO()
    document.save(out)
    return out.getvalue()


def _add_field(paragraph: Paragraph, column: str) -> None:
    field = OxmlElement("w:fldSimple")
    field.set(qn("w:instr"), f' MERGEFIELD "{column}" ')
    run, text = OxmlElement("w:r"), OxmlElement("w:t")
    text.text = f"«{column}»"
    run.append(text)
    field.append(run)
    paragraph._p.append(field)
