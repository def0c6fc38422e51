"""The dough room: scaling a formula to a batch, the water's temperature, and the card that says it all."""
