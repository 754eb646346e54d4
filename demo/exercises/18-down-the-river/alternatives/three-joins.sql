SELECT a.name, b.name, 1
FROM rivers AS a
JOIN rivers AS b ON b.river_id = a.flows_into
UNION ALL
SELECT a.name, c.name, 2
FROM rivers AS a
JOIN rivers AS b ON b.river_id = a.flows_into
JOIN rivers AS c ON c.river_id = b.flows_into
UNION ALL
SELECT a.name, d.name, 3
FROM rivers AS a
JOIN rivers AS b ON b.river_id = a.flows_into
JOIN rivers AS c ON c.river_id = b.flows_into
JOIN rivers AS d ON d.river_id = c.flows_into;
