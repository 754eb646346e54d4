WITH RECURSIVE reached (river_id, below, steps) AS (
    SELECT river_id, flows_into, 1
    FROM rivers
    WHERE flows_into IS NOT NULL
    UNION ALL
    SELECT reached.river_id, rivers.flows_into, reached.steps + 1
    FROM reached
    JOIN rivers ON rivers.river_id = reached.below
    WHERE rivers.flows_into IS NOT NULL
)
SELECT r.name AS river, b.name AS reaches, steps
FROM reached
JOIN rivers AS r ON r.river_id = reached.river_id
JOIN rivers AS b ON b.river_id = reached.below;
