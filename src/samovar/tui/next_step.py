"""What to do next, in words: with a review, and where there is none yet."""

from __future__ import annotations

from samovar.archive.records import Review
from samovar.archive.review_plan import ReviewPlan

NO_REVIEW_YET = (
    "No review yet. A review is a question, the loads it is asked under, and the setups that are compared.\n"
    "Three ways in:\n"
    "  a   frames a review: question, loads, passes; ? and then m opens the manual at how to do that in ten minutes\n"
    "  b   brings in a log that you have already, of any maker, or a recording of sound\n"
    "      samovar demo, in another terminal, opens reviews that are under way: look around, nothing in it is lost\n"
    "  1   the Shelf: the products with their sizes, prices and claims, and the rig they are measured on\n"
    "  r   records at once on this machine; a run without a review lands in the inbox"
)


def next_step(review: Review, plan: ReviewPlan) -> str:
    """What to do next in a review."""
    if not review.setups:
        return "add setups in the Grid"
    if not review.loads:
        return "choose its loads"
    proposal = plan.proposal()
    if proposal is not None:
        return f"record {proposal.setup}, {proposal.load}"
    return "write the verdict" if not review.verdict else "publish"
