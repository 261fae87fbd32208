"""The doctor: causes of a picture that does not move as it should, each a function over facts.

`facts.py` says what is looked at; a module for each family of causes; `diagnosis.py` asks all of them. Causes are named
as `cli.md` has them. Nothing is imported here: who records facts does not need what looks into them.
"""
