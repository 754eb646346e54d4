-- A cooperative of mountain huts: its huts, the trails between them, its wardens and the guests' stays.
CREATE TABLE huts (
    hut_id     INTEGER PRIMARY KEY,
    name       TEXT    NOT NULL UNIQUE,
    region     TEXT    NOT NULL,
    altitude_m INTEGER NOT NULL,
    beds       INTEGER NOT NULL CHECK (beds > 0)
);

CREATE TABLE trails (
    from_hut INTEGER      NOT NULL REFERENCES huts (hut_id),
    to_hut   INTEGER      NOT NULL REFERENCES huts (hut_id),
    hours    DECIMAL(3,1) NOT NULL CHECK (hours > 0),
    grade    TEXT,
    PRIMARY KEY (from_hut, to_hut)
);

CREATE TABLE wardens (
    warden_id INTEGER PRIMARY KEY,
    full_name TEXT    NOT NULL,
    hut_id    INTEGER REFERENCES huts (hut_id),
    mentor_id INTEGER REFERENCES wardens (warden_id),
    since     DATE    NOT NULL
);

CREATE TABLE stays (
    stay_id   INTEGER PRIMARY KEY,
    hut_id    INTEGER NOT NULL REFERENCES huts (hut_id),
    guest     TEXT    NOT NULL,
    arrival   DATE    NOT NULL,
    nights    INTEGER NOT NULL CHECK (nights > 0),
    meal_plan TEXT,
    paid_on   DATE
);
