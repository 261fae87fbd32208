"""Where the show takes place: venues, decks, structures, figures. Each makes its mesh; structures have rails."""
