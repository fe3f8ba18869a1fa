"""The draft of a review's article: sentences that stand on the findings."""
