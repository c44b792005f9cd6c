"""A catalogue of one language: sentences with places for values, found again in what the core has said.

The core makes its sentences with the values in them, so that a figure and its words can't come apart. Here
such a sentence is matched against the templates of its key, and said in the other language with the same
values in the places which that language wants.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache, cached_property
from importlib import resources

import polib

PLACE = re.compile(r"\{(\w+)\}")
NUMBER = "n_"  # a place so named holds a number, with its unit
SENTENCES = tuple(re.compile(rf"(?<=[{end}])(\s+)") for end in ".:;")  # whole ones, then parts of one
WINDOW, ANY = "window", "any"  # words of the window; words that any key may say
DEEPEST = 6  # how deep sentences stand in each other's places
FOLDER = ("assets", "words")


@dataclass(frozen=True)
class Template:
    """One entry: what the code says under a key, and how the other language says it."""

    key: str
    source: str
    target: str

    @cached_property
    def pattern(self) -> re.Pattern[str]:
        """What a sentence made of this template looks like."""
        parts, at, seen = [], 0, set()
        for place in PLACE.finditer(self.source):
            parts.append(re.escape(self.source[at : place.start()]))
            name, at = place.group(1), place.end()
            holds = r"[\d.,\s−-]+?(?:[^\W\d]{1,3})?" if name.startswith(NUMBER) else ".*?"
            parts.append(f"(?P={name})" if name in seen else f"(?P<{name}>{holds})")
            seen.add(name)
        return re.compile("".join(parts) + re.escape(self.source[at:]), re.DOTALL)

    @property
    def own_signs(self) -> int:
        """How much of it is words of its own: the more, the surer a match is."""
        return len(PLACE.sub("", self.source))


class Catalogue:
    """The templates of a language, by key."""

    def __init__(self, name: str, templates: tuple[Template, ...]) -> None:
        self.name, self.templates = name, templates
        self._by_key: dict[str, list[Template]] = {}
        for template in sorted(templates, key=lambda shape: -shape.own_signs):
            self._by_key.setdefault(template.key, []).append(template)
        self._exact = {(template.key, template.source): template.target for template in templates}

    def exact(self, key: str, text: str) -> str:
        """A sentence without values; '' where the catalogue has none."""
        return self._exact.get((key, text), "")

    def text(self, text: str, *keys: str) -> str:
        """A sentence of the core in this language; as it is where no template of its keys fits."""
        return self._said(text, (*keys, ANY), 0)

    def _said(self, text: str, keys: tuple[str, ...], depth: int) -> str:
        if not any(sign.isalpha() for sign in text) or depth > DEEPEST:
            return text
        words = self._whole(text, keys, depth)
        if words is not None:
            return self._by_sentence(text, keys, depth) or words
        body = text.strip()
        if body != text:
            return text.replace(body, self._said(body, keys, depth + 1))
        other = text[0].swapcase() + text[1:]  # a part begins a sentence, or one became a part
        if (words := self._whole(other, keys, depth)) is not None:
            return (words[0].upper() if text[0].isupper() else words[0].lower()) + words[1:]
        for ends in SENTENCES:
            if len(parts := ends.split(text)) > 1:
                return "".join(self._said(part, keys, depth + 1) for part in parts)
        if text[-1] in ".;:":
            return self._said(text[:-1], keys, depth + 1) + text[-1]
        return text

    def _by_sentence(self, text: str, keys: tuple[str, ...], depth: int) -> str:
        """Sentences one by one, where each is known: surer than a template whose places hold whole ones."""
        parts = SENTENCES[0].split(text)
        made = [self._said(part, keys, depth + 1) for part in parts] if len(parts) > 1 else []
        known = all(old != new for old, new in zip(parts, made) if old.strip())
        return "".join(made) if known else ""

    def _whole(self, text: str, keys: tuple[str, ...], depth: int) -> str | None:
        """A sentence that one template makes; None where none does."""
        for template in self._of(keys):
            match = template.pattern.fullmatch(text)
            if match is not None:
                values = {
                    name: self._said(value, keys, depth + 1) for name, value in match.groupdict().items()
                }
                parts = PLACE.split(template.target)  # words and names of places in turn
                return "".join(values.get(part, "") if at % 2 else part for at, part in enumerate(parts))
        return None

    def _of(self, keys: tuple[str, ...]) -> Iterator[Template]:
        for key in keys:
            yield from self._by_key.get(key, ())


def languages() -> tuple[str, ...]:
    """The languages that have a catalogue, by their codes."""
    folder = resources.files("lodestaff").joinpath(*FOLDER)
    return tuple(
        sorted(file.name.removesuffix(".po") for file in folder.iterdir() if file.name.endswith(".po"))
    )


@cache
def load_catalogue(language: str) -> Catalogue:
    """The catalogue of a language; an empty one where there is none."""
    file = resources.files("lodestaff").joinpath(*FOLDER, f"{language}.po")
    if not file.is_file():
        return Catalogue(language, ())
    entries = polib.pofile(file.read_text(encoding="utf-8"))
    return Catalogue(
        language,
        tuple(
            Template(entry.msgctxt or ANY, entry.msgid, entry.msgstr)
            for entry in entries
            if entry.msgstr and "fuzzy" not in entry.flags
        ),
    )
