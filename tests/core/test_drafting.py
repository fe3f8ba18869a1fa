"""Drafted sentences beside an article: what is offered, what is taken in where, and that nothing written is replaced."""

from __future__ import annotations

import unittest

from samovar.core.drafting import CHANGED, IN, NEW, OWN, STRUCK, offered, taken_in
from samovar.core.live_fields import passages, photo_line

PICK = "Osprey 161 is the pick, at {rise | Osprey 161 | worst case = 49.6 ±0.4 K}."
WHY = "Against Plain 65 it is cooler."


class DraftingTest(unittest.TestCase):
    def states(
        self, draft: list[tuple[str, str]], decided: dict[str, tuple[str, str]], article: str
    ) -> list[str]:
        return [o.state for o in offered(draft, decided, article)]

    def test_what_became_of_each(self) -> None:
        draft = [("pick", PICK), ("why", WHY)]
        self.assertEqual(self.states(draft, {}, ""), [NEW, NEW])
        kept = {"pick": ("kept", PICK), "why": ("struck", WHY)}
        self.assertEqual(self.states(draft, kept, PICK), [IN, STRUCK])
        self.assertEqual(self.states(draft, kept, "I would take the Osprey."), [OWN, STRUCK])

    def test_a_number_that_follows_the_runs_is_no_new_sentence(self) -> None:
        later = PICK.replace("49.6", "51.2")
        self.assertEqual(self.states([("pick", later)], {"pick": ("kept", PICK)}, PICK), [IN])
        self.assertEqual(self.states([("pick", later)], {"pick": ("struck", PICK)}, ""), [STRUCK])

    def test_what_reads_otherwise_is_offered_beside_what_it_was(self) -> None:
        (one,) = offered([("pick", "Loam P is the pick.")], {"pick": ("struck", PICK)}, "My words.")
        self.assertEqual((one.state, one.before), (CHANGED, PICK))

    def test_sentences_of_a_paragraph_stay_together_and_words_stay(self) -> None:
        article = taken_in("My own beginning.\n", PICK, [])
        self.assertEqual(article, f"My own beginning.\n\n{PICK}\n")
        article = taken_in(article, WHY, [PICK])
        self.assertEqual(article, f"My own beginning.\n\n{PICK} {WHY}\n")
        # The field reads something else in the article by now: it is the same sentence.
        article = taken_in(article.replace("49.6", "50.0"), "And quiet.", [PICK])
        self.assertTrue(article.startswith("My own beginning.\n\nOsprey 161 is the pick"))
        self.assertTrue(article.rstrip().endswith("And quiet."))

    def test_photographs_stand_where_their_line_is(self) -> None:
        article = f"One.\n\n{photo_line('duct')}\n\nTwo {{photo: no line of its own}}."
        self.assertEqual(
            passages(article),
            [("text", "One."), ("photo", "duct"), ("text", "Two {photo: no line of its own}.")],
        )


if __name__ == "__main__":
    unittest.main()
