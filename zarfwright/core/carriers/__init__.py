"""Things that move: drivers, which give a carrier or one thing channels of its own (numbers.md, Drivers).

A driver is a fixture of a type made for it (`types`), so that patch, looks and lists know it like any lamp. `planned`
says what of a show is moved by whom (a `plan`), `poses` where that brings it, `travel` how it gets there, `keeping` how
heads stay on their points meanwhile, `posed` what a show is with all of it there, `meeting` what meets what on the way.
"""
