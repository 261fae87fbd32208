-- A show file (*.zarf). Bodies are JSON, made and read by core/show.py.
CREATE TABLE about (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    show_id TEXT NOT NULL,
    rev INTEGER NOT NULL DEFAULT 0
);

CREATE TABLE objects (
    id TEXT PRIMARY KEY,
    kind TEXT NOT NULL,
    parent TEXT,
    layer TEXT,
    ord INTEGER NOT NULL DEFAULT 0,
    rev INTEGER NOT NULL DEFAULT 0,
    body TEXT NOT NULL CHECK (json_valid(body))
) WITHOUT ROWID;
CREATE INDEX objects_kind ON objects (kind, ord);
CREATE INDEX objects_parent ON objects (parent) WHERE parent IS NOT NULL;
CREATE INDEX objects_address ON objects (
    json_extract(body, '$.universe'), json_extract(body, '$.address')
) WHERE kind = 'fixture';
CREATE INDEX objects_number ON objects (json_extract(body, '$.number')) WHERE kind = 'fixture';

-- One row a gesture; `rev` is the show's count when it was last done or undone. `changes` is a JSON array of {before, after} rows of objects.
CREATE TABLE journal (
    seq INTEGER PRIMARY KEY AUTOINCREMENT,
    rev INTEGER NOT NULL,
    at TEXT NOT NULL,
    who TEXT NOT NULL,
    kind TEXT NOT NULL,
    sentence TEXT NOT NULL,
    changes TEXT NOT NULL,
    undone INTEGER NOT NULL DEFAULT 0
);

CREATE TABLE restore_points (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    at TEXT NOT NULL,
    name TEXT NOT NULL,
    objects TEXT NOT NULL
);

-- Files that the show keeps: GDTF, images, meshes.
CREATE TABLE assets (
    sha256 TEXT PRIMARY KEY,
    name TEXT NOT NULL,
    bytes BLOB NOT NULL
) WITHOUT ROWID;

CREATE TABLE notes (
    id TEXT PRIMARY KEY,
    at TEXT NOT NULL,
    who TEXT NOT NULL,
    about TEXT,
    body TEXT NOT NULL,
    done INTEGER NOT NULL DEFAULT 0
) WITHOUT ROWID;

-- What looks look like, small, as some browser drew them; `made_of` says of which state of the show.
CREATE TABLE pictures (
    look TEXT PRIMARY KEY,
    made_of TEXT NOT NULL,
    jpeg BLOB NOT NULL
) WITHOUT ROWID;
