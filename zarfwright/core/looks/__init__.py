"""Looks: what one is and says, how looks lie over each other, what differs between two, and in which words."""
