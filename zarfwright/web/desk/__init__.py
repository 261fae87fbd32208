"""The open show and all who look at it: the session changes it, the views tell it to browsers, the feed to the live
process. `Desk` ties them together."""

from zarfwright.web.desk.desk import Desk
from zarfwright.web.desk.session import Conflict, Session, new_id

__all__ = ["Conflict", "Desk", "Session", "new_id"]
