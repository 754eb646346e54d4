SELECT a.name, b.name, 1 FROM rivers AS a JOIN rivers AS b ON b.river_id = a.flows_into
