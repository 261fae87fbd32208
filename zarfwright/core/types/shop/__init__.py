"""The type shop: drafts of fixture types, as a person fills them in, and what comes of them.

`draft` is what is filled in, `bodies` the geometry of each kind, `build` turns a draft into a type and back,
`starters` begin one, `checks` says what is wrong and repairs it, `pasted` takes in a manual's text.
"""
