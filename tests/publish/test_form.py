"""The form of a publication: another language whole, other units in words and in figures, the data as they were."""

from __future__ import annotations

import html
import re
import tempfile
import unittest
from importlib.resources import files
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from samovar.archive import Archive
from samovar.archive.editions import AUTHOR
from samovar.exchange.problems import InputError
from samovar.publish.draft.draft import draft_verdict
from samovar.publish.form import COMMA, IMPERIAL, Form
from samovar.publish.imprint import choose_form
from samovar.publish.language import ENGLISH, language, languages
from samovar.publish.review import publish_review
from tests.demo_archive import demo_archive
from tests.publish.test_draft import REVIEWS

ENGLISH_WORDS = re.compile(
    r"\b(the|and|of|with|under|which|not|are|than|for|from|by|has|have|least|most|less|more)\b"
)
GERMAN, FEET = Form("de", COMMA), Form(units=IMPERIAL)


def messages(code: str) -> dict[str, set[str]]:
    """The messages of a language, each with what it needs."""
    text = files("samovar").joinpath(f"publish/texts/{code}.ftl").read_text(encoding="utf-8")
    found: dict[str, set[str]] = {}
    for block in re.split(r"\n(?=[a-z][\w-]* =)", text):
        if match := re.match(r"([a-z][\w-]*) =", block):
            found[match[1]] = set(re.findall(r"\$(\w+)", block.partition("\n#")[0]))
    return found


class LanguageTest(unittest.TestCase):
    def test_every_language_has_every_text_and_needs_nothing_more(self) -> None:
        wanted = messages(ENGLISH)
        for code in languages():
            have = messages(code)
            self.assertEqual(set(have), set(wanted), code)
            for key, needs in have.items():
                self.assertLessEqual(needs, wanted[key], f"{code}: {key}")

    def test_drafts_are_whole_in_every_language(self) -> None:
        for name, data in REVIEWS.items():
            text = " ".join(draft_verdict(data, [], language("de")))
            names = (
                [s.name for s in data.review.setups]
                + list(data.review.loads)
                + [s.rig_name for s in data.review.setups]
            )
            for own in sorted(names, key=len, reverse=True):
                text = text.replace(own, "")
            self.assertEqual(ENGLISH_WORDS.findall(text), [], f"{name}: {text}")

    def test_names_stay_as_they_are(self) -> None:
        for name in ("Loam P", "Pebble K2", "Closed, 22 W", "Halden 8"):
            self.assertEqual(GERMAN.text(name), name)

    @given(st.text())
    def test_whatever_stands_there_is_said(self, text: str) -> None:
        self.assertIsInstance(GERMAN.text(text), str)
        self.assertEqual(Form().text(text), text)


class UnitsTest(unittest.TestCase):
    def test_temperatures_differences_and_lengths(self) -> None:
        for metric, said in (
            ("79 ±2 °C", "174 ±4 °F"), ("at least 22.3 ±1.4 K cooler", "at least 40 ±3 °F cooler"), ("at 1 m", "at 3.3 ft"),
            ("22.2 to 22.6 °C", "72.0 to 72.7 °F"), ("Pebble K2, 95 W at 4.55 GHz", "Pebble K2, 95 W at 4.55 GHz"),
            ("0.52 ±0.01 K/W", "0.94 ±0.02 °F/W"),
        ):  # fmt: skip
            self.assertEqual(FEET.text(metric), said)

    def test_decimal_commas_leave_versions_and_days_alone(self) -> None:
        comma = Form(decimals=COMMA)
        self.assertEqual(comma.text("49.6 ±0.4 K, 1.5 dB"), "49,6 ±0,4 K, 1,5 dB")
        self.assertEqual(
            comma.text("Samovar 0.9.1, 2026-11-28, JCGM 100:2008"), "Samovar 0.9.1, 2026-11-28, JCGM 100:2008"
        )


class PublishedTest(unittest.TestCase):
    def test_a_whole_publication_in_german_and_then_in_fahrenheit(self) -> None:
        with tempfile.TemporaryDirectory() as holder, Archive(demo_archive(Path(holder))) as archive:
            archive.editions.set_imprint(AUTHOR, "Harbour FM")
            review = archive.reviews.reviews()[2]
            choose_form(archive, "de")
            target = Path(holder) / "de"
            publish_review(archive, review, target)
            page = (target / "index.html").read_text(encoding="utf-8")
            self.assertIn('<html lang="de">', page)
            self.assertIn("Minuten seit Beginn der Last", page)
            lines = html.unescape(re.sub(r"<style.*?</style>|<[^>]+>", "\n", page, flags=re.S)).split("\n")
            # What people wrote, and names, are in their own language.
            own = [
                review.question,
                *(s.rig_name for s in review.setups),
                *(n.text for s in review.setups for p in s.products for n in p.notes),
            ]
            own += [str(v) for s in review.setups if s.rig for v in s.rig.details.values()] + [
                s.name for s in review.setups
            ]
            left = set()
            for line in lines:
                for words in sorted(own, key=len, reverse=True):
                    line = line.replace(words, "")
                if ENGLISH_WORDS.search(line):
                    left.add(line.strip())
            self.assertEqual(left, set())
            data = (target / "results.csv").read_bytes()
            choose_form(archive, "en", units=IMPERIAL)
            target = Path(holder) / "feet"
            publish_review(archive, review, target)
            page = (target / "index.html").read_text(encoding="utf-8")
            self.assertRegex(page, r"174 ±4 °F")
            self.assertNotIn("°C", page)
            self.assertEqual((target / "results.csv").read_bytes(), data)
            with self.assertRaisesRegex(InputError, "not one of de, en"):
                choose_form(archive, "xx")


if __name__ == "__main__":
    unittest.main()
