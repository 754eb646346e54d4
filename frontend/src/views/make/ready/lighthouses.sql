-- Lighthouses, their keepers, and the ships that they saw.
CREATE TABLE lighthouses (
    lighthouse_id INTEGER PRIMARY KEY,
    name VARCHAR(30) NOT NULL UNIQUE,
    coast VARCHAR(10) NOT NULL,
    height_m INTEGER NOT NULL,
    lit_since INTEGER
);
CREATE TABLE keepers (
    keeper_id INTEGER PRIMARY KEY,
    name VARCHAR(30) NOT NULL,
    lighthouse_id INTEGER REFERENCES lighthouses (lighthouse_id),
    since DATE NOT NULL,
    phone VARCHAR(12)
);
CREATE TABLE sightings (
    sighting_id INTEGER PRIMARY KEY,
    lighthouse_id INTEGER NOT NULL REFERENCES lighthouses (lighthouse_id),
    seen_on DATE NOT NULL,
    kind VARCHAR(12) NOT NULL,
    distance_km DECIMAL(4, 1),
    remark VARCHAR(40)
);
INSERT INTO lighthouses VALUES
    (1, 'Rote Nadel', 'north', 38, 1871), (2, 'Grauhaken', 'north', 24, 1904),
    (3, 'Salzturm', 'west', 50, 1871), (4, 'Kleine Feuer', 'west', 12, NULL),
    (5, 'Ostbank', 'east', 38, 1932), (6, 'Neufels', 'east', 24, 2001);
INSERT INTO keepers VALUES
    (1, 'Inga Thoms', 1, '2011-04-01', '555-0101'), (2, 'Bero Falk', 2, '2018-09-15', NULL),
    (3, 'Mette Sund', 3, '2018-09-15', '555-0133'), (4, 'Jorn Raab', 3, '2022-01-10', ''),
    (5, 'Lale Okan', NULL, '2023-06-01', '555-0150'), (6, 'Inga Thoms', 5, '2020-02-29', NULL);
INSERT INTO sightings VALUES
    (1, 1, '2026-03-01', 'freighter', 12.0, NULL), (2, 1, '2026-03-01', 'freighter', 12.0, NULL),
    (3, 1, '2026-03-02', 'sail', 3.5, 'two masts'), (4, 2, '2026-03-02', 'ferry', 8.0, ''),
    (5, 3, '2026-03-03', 'Ferry', 10.0, 'late'), (6, 3, '2026-03-05', 'sail', NULL, 'in fog'),
    (7, 3, '2026-03-05', 'freighter', 20.0, NULL), (8, 5, '2026-03-06', 'sail', 10.0, 'two masts'),
    (9, 5, '2026-03-31', 'trawler', 9.9, NULL), (10, 2, '2026-04-01', 'ferry', 8.0, 'late');
