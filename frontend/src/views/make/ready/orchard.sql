-- An orchard: kinds of fruit, trees, and what was picked from them.
CREATE TABLE kinds (
    kind VARCHAR(20) PRIMARY KEY,
    fruit VARCHAR(10) NOT NULL,
    ripe_from INTEGER
);
CREATE TABLE trees (
    tree_id INTEGER PRIMARY KEY,
    kind VARCHAR(20) REFERENCES kinds (kind),
    planted INTEGER NOT NULL,
    row_no INTEGER NOT NULL,
    grafted BOOLEAN NOT NULL DEFAULT 0
);
CREATE TABLE pickings (
    tree_id INTEGER NOT NULL REFERENCES trees (tree_id),
    picked_on DATE NOT NULL,
    kilograms DECIMAL(5, 2) NOT NULL CHECK (kilograms >= 0),
    crates INTEGER,
    PRIMARY KEY (tree_id, picked_on)
);
INSERT INTO kinds VALUES
    ('Early Amber', 'apple', 8), ('Frostbell', 'apple', 10), ('Grey Lady', 'pear', 9),
    ('Stone Jack', 'plum', NULL), ('Late Lantern', 'pear', 10);
INSERT INTO trees VALUES
    (1, 'Early Amber', 2009, 1, 0), (2, 'Early Amber', 2009, 1, 1), (3, 'Frostbell', 2012, 1, 1),
    (4, 'Frostbell', 2015, 2, 0), (5, 'Grey Lady', 2012, 2, 0), (6, NULL, 1988, 2, 0),
    (7, 'Stone Jack', 2020, 3, 1), (8, 'Grey Lady', 2020, 3, 1);
INSERT INTO pickings VALUES
    (1, '2026-08-20', 50.00, 3), (1, '2026-08-27', 22.50, 1), (2, '2026-08-20', 50.00, 3),
    (3, '2026-10-02', 41.25, 2), (3, '2026-10-09', 0.00, NULL), (4, '2026-10-02', 18.75, 1),
    (5, '2026-09-11', 33.00, 2), (6, '2026-09-30', 50.00, NULL), (6, '2026-10-01', 9.00, 0);
