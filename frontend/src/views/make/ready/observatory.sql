-- An observatory: telescopes, clear and cloudy nights, and what was looked at.
CREATE TABLE telescopes (
    telescope VARCHAR(20) PRIMARY KEY,
    mirror_cm INTEGER NOT NULL,
    dome VARCHAR(10)
);
CREATE TABLE nights (
    night DATE PRIMARY KEY,
    moon_percent INTEGER NOT NULL CHECK (moon_percent BETWEEN 0 AND 100),
    cloudy BOOLEAN NOT NULL
);
CREATE TABLE observations (
    observation_id INTEGER PRIMARY KEY,
    night DATE NOT NULL REFERENCES nights (night),
    telescope VARCHAR(20) NOT NULL REFERENCES telescopes (telescope),
    target VARCHAR(20) NOT NULL,
    begun TIME NOT NULL,
    minutes INTEGER NOT NULL,
    quality INTEGER
);
INSERT INTO telescopes VALUES
    ('Otter', 60, 'south'), ('Heron', 120, 'north'), ('Wren', 20, NULL), ('Lynx', 120, 'south');
INSERT INTO nights VALUES
    ('2026-02-10', 48, 0), ('2026-02-11', 38, 1), ('2026-02-12', 29, 0), ('2026-02-13', 20, 0),
    ('2026-02-28', 91, 0);
INSERT INTO observations VALUES
    (1, '2026-02-10', 'Heron', 'Ring nebula', '20:15', 60, 4),
    (2, '2026-02-10', 'Heron', 'ring nebula', '21:30', 60, 5),
    (3, '2026-02-10', 'Otter', 'Moon', '19:05', 15, NULL),
    (4, '2026-02-12', 'Lynx', 'Comet K', '23:50', 90, 3),
    (5, '2026-02-12', 'Heron', 'Comet K', '23:50', 90, 3),
    (6, '2026-02-13', 'Lynx', 'Comet K', '00:10', 45, NULL),
    (7, '2026-02-28', 'Otter', 'Moon', '18:40', 15, 2);
