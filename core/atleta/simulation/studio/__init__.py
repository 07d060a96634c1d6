"""The studio: figures, bars and gyms drawn as a phone would see them. A developer's tool; nothing else needs it."""
