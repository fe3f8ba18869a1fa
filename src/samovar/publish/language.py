"""The languages a publication can be written in. Each is two files in `texts/`: LANGUAGE.ftl, by Project Fluent, has what is said in
publications alone; LANGUAGE.toml turns what the rest of the program says, in English, sentence by sentence.
"""

from __future__ import annotations

import re
import tomllib
from collections.abc import Sequence
from functools import lru_cache
from importlib.resources import files
from typing import Any

ENGLISH = "en"
NONE = "none"
"""What a text is given for what there is none of: it selects by it."""


class Language:
    """The texts of one language.

    Args:
        code: such as `en`: the name of its file.
    """

    def __init__(self, code: str) -> None:
        from fluent.runtime import FluentBundle, FluentResource

        self.code = code
        # Names and values are set as they are: marks of isolation would show in files that others read.
        self._bundle = FluentBundle([code], use_isolating=False)
        text = files("samovar").joinpath(f"publish/texts/{code}.ftl").read_text(encoding="utf-8")
        self._bundle.add_resource(FluentResource(text))
        self._exact, self._patterns = _turned(code)
        self._told: dict[str, str] = {}

    def say(self, key: str, **values: Any) -> str:
        """A text with its values.

        Raises:
            KeyError: there is no such text, or a value it needs was not given.
        """
        message = self._bundle.get_message(key)
        if message.value is None:
            raise KeyError(key)
        given = {k: NONE if v is None else v for k, v in values.items()}
        words, problems = self._bundle.format_pattern(message.value, given)
        if problems:
            raise KeyError(f"{key}: {problems[0]}")
        return str(words)

    def words(self, text: str) -> str:
        """What the program says in English, in this language; names, and what has no words here, as they are."""
        if not self._exact and not self._patterns:
            return text
        found = self._told.get(text)
        if found is None:
            found = self._told[text] = self._said(text)
        return found

    def _said(self, text: str) -> str:
        if sum(c.isalpha() for c in text) < LEAST_LETTERS:
            return text
        for cut in _PASSAGES:
            # What is said is said sentence by sentence.
            if len(parts := cut.split(text)) > 1:
                return "".join(
                    a + b for a, b in zip(map(self.words, parts), [*cut.findall(text), ""], strict=True)
                )
        lower = text[:1].lower() + text[1:]
        for ask in (self._exact.get, self._by_pattern):
            if (found := ask(text)) is not None:
                return found
            if (found := ask(lower)) is not None:
                # It begins a line here, and stands within one where it is known.
                return found[:1].upper() + found[1:]
        for cut in _CUTS:
            if len(parts := cut.split(text)) > 1 and (turned := [self.words(p) for p in parts]) != parts:
                joints = [self._joint(j) for j in cut.findall(text)]
                return "".join(a + b for a, b in zip(turned, [*joints, ""], strict=True))
        return text

    def _by_pattern(self, text: str) -> str | None:
        for pattern, said in self._patterns:
            if (match := pattern.fullmatch(text)) is not None:
                return said.format_map({k: self._within(v) for k, v in match.groupdict().items()})
        return None

    def _within(self, text: str) -> str:
        """What stands in a sentence: words, a value, or names, of which the last two are joined."""
        found = self.words(text)
        return found.replace(" and ", f" {self.say('and')} ") if found == text else found

    def _joint(self, text: str) -> str:
        return f" {self.say('and')} " if text == " and " else text

    def listed(self, words: Sequence[str]) -> str:
        """`a, b and c`."""
        if len(words) < 2:
            return "".join(words)
        return f"{', '.join(words[:-1])} {self.say('and')} {words[-1]}"

    def clauses(self, words: Sequence[str]) -> str:
        """The same of clauses that have commas of their own."""
        if len(words) < 2:
            return "".join(words)
        return f"{'; '.join(words[:-1])}; {self.say('and')} {words[-1]}"


LEAST_LETTERS = 2
"""A sign or a unit of one letter is no word."""
_PASSAGES = (re.compile(r"\n\n"), re.compile(r"(?<=[.!?]) (?=[A-Z“*])"))
"""Where paragraphs end, and sentences."""
_CUTS = (
    re.compile(r"; "),
    re.compile(r": "),
    re.compile(r", "),
    re.compile(r" and "),
    re.compile(r" \("),
    re.compile(r"\)"),
)
"""Where a sentence is cut that has no words as a whole: clauses, members of a list."""
_PLACE = re.compile(r"\\\{(\w+)\\\}")
_VALUES = (
    "value",
    "second",
    "size",
    "limit",
    "v",
    "w",
    "n",
    "k",
    "t",
    "m",
    "bg",
    "db",
    "share",
    "loss",
    "work",
    "drift",
)
"""Places that only a number with its unit can stand in."""
_OF_WORDS = ("part", "figure")
"""Places for words without any punctuation among them."""
_WORDS, _LABEL = r"[^,;:.]+?", r"[^,;:]+?(?:, read by hand)?"
_VALUE = r"(?:at least |at most |[≤≥])?[+−-]?\d[\d.,:]*(?: ±[\d.]+)?(?: ?[^\s,;.]+){0,2}"


def _place(found: re.Match[str]) -> str:
    name = found[1]
    return f"(?P<{name}>{_VALUE if name in _VALUES else _WORDS if name in _OF_WORDS else _LABEL if name == 'label' else '.+?'})"


def _turned(code: str) -> tuple[dict[str, str], list[tuple[re.Pattern[str], str]]]:
    """What a language has for words of the program: those that are the same each time, and those with something in them."""
    try:
        text = files("samovar").joinpath(f"publish/texts/{code}.toml").read_text(encoding="utf-8")
    except FileNotFoundError:
        return {}, []
    exact: dict[str, str] = {}
    patterns: list[tuple[int, re.Pattern[str], str]] = []
    for english, said in tomllib.loads(text).items():
        if "{" not in english:
            exact[english] = said
            continue
        pattern = _PLACE.sub(_place, re.escape(english))
        literal = len(re.sub(r"\{\w+\}", "", english))
        patterns.append((literal, re.compile(pattern, re.S), said))
    # What says the most of itself is tried first.
    return exact, [(p, s) for _, p, s in sorted(patterns, key=lambda x: -x[0])]


def languages() -> dict[str, str]:
    """The languages there are: code and name."""
    return {
        path.name.removesuffix(".ftl"): language(path.name.removesuffix(".ftl")).say("name-of-the-language")
        for path in sorted(files("samovar").joinpath("publish/texts").iterdir(), key=lambda p: p.name)
        if path.name.endswith(".ftl")
    }


@lru_cache(maxsize=4)
def language(code: str = ENGLISH) -> Language:
    """The texts of a language.

    Raises:
        FileNotFoundError: there is no such file.
    """
    return Language(code)
