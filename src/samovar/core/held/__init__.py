"""What held the clock: signals, what was kept constant in them, one score for each cause, the likeliest course of them."""
