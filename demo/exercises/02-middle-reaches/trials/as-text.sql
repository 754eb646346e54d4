SELECT station_code, name, km FROM stations WHERE CAST(km AS TEXT) BETWEEN '20' AND '60'
