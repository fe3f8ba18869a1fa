"""What the Shelf shows: a view each for products, rigs, courses, loads and exchange rates."""
