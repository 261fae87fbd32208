"""The demo show, built through core's edits as a user would build it. All made up (README, demo)."""
