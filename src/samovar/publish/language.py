"""The languages a publication can be written in: one file of texts each, `texts/LANGUAGE.ftl`, by Project Fluent."""

from __future__ import annotations

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


@lru_cache(maxsize=4)
def language(code: str = ENGLISH) -> Language:
    """The texts of a language.

    Raises:
        FileNotFoundError: there is no such file.
    """
    return Language(code)
