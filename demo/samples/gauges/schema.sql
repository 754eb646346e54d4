-- A network of river gauges: rivers and what they flow into, stations, their sensors, readings.
CREATE TABLE rivers (
    river_id   INTEGER PRIMARY KEY,
    name       TEXT         NOT NULL UNIQUE,
    length_km  DECIMAL(6,1) NOT NULL CHECK (length_km > 0),
    flows_into INTEGER REFERENCES rivers (river_id)
);

CREATE TABLE stations (
    station_code TEXT PRIMARY KEY NOT NULL,
    river_id     INTEGER      NOT NULL REFERENCES rivers (river_id),
    name         TEXT         NOT NULL,
    km           DECIMAL(6,1) NOT NULL,
    warning_cm   INTEGER CHECK (warning_cm > 0),
    opened       DATE         NOT NULL,
    closed       DATE
);

CREATE TABLE sensors (
    sensor_id    INTEGER PRIMARY KEY,
    station_code TEXT    NOT NULL REFERENCES stations (station_code),
    kind         TEXT    NOT NULL CHECK (kind IN ('level', 'flow', 'temperature')),
    installed    DATE    NOT NULL,
    active       BOOLEAN NOT NULL DEFAULT TRUE
);

CREATE TABLE readings (
    sensor_id INTEGER      NOT NULL REFERENCES sensors (sensor_id),
    taken_at  TIMESTAMP    NOT NULL,
    value     DECIMAL(8,2),
    quality   TEXT         NOT NULL DEFAULT 'good',
    PRIMARY KEY (sensor_id, taken_at)
);

CREATE INDEX readings_by_time ON readings (taken_at);
