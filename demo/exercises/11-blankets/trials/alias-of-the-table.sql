SELECT hut.name, hut.beds * 3 AS blankets FROM huts AS hut
