"""Pointing: how heads and yokes turn to a place (solve, yokes), patterns over a selection (patterns), focus points and
what follows them (points, follow), colours that other types can give (colour). Edits of these are in `core/edits`."""
