"""The words that go with a picture: title, caption, who made it, whose it is, what may be done with it, keywords.

None until somebody writes them: then the file's own count."""

from __future__ import annotations

from dataclasses import dataclass

from glyptic.base.errors import Fault
from glyptic.params import Param, Schema, Text
from glyptic.params.declared import describe

MOST_KEYWORDS, LONGEST_KEYWORD = 100, 64


@dataclass(frozen=True, kw_only=True)
class Keywords(Param):
    """A list of short texts, each once."""

    def parse(self, raw: object, at: str, faults: list[Fault]) -> tuple[str, ...] | None:
        if not isinstance(raw, list | tuple) or len(raw) > MOST_KEYWORDS:
            faults.append(Fault(at, f"must be a list of at most {MOST_KEYWORDS} keywords, not {describe(raw)}"))
            return None
        one = Text(longest=LONGEST_KEYWORD)
        found = [one.parse(item, f"{at}[{i}]", faults) for i, item in enumerate(raw)]
        return None if None in found else tuple(dict.fromkeys(word.strip() for word in found if word is not None))

    def plain(self, value: tuple[str, ...]) -> list[str]:
        return list(value)


def _text(label: str, help_text: str, longest: int = 300) -> Text:
    return Text(label=label, help=help_text, longest=longest, default="", blank=True)


WORDS = Schema(
    {
        "title": _text("Title", "A short name for the picture."),
        "caption": _text("Caption", "What is seen, where and when.", 2000),
        "creator": _text("Creator", "Who took the picture."),
        "copyright": _text("Copyright", "Whose it is: © year, name."),
        "rights": _text("Rights", "What may be done with it.", 1000),
        "keywords": Keywords(label="Keywords", default=(), help="What it is found by."),
    }
)
