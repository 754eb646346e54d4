SELECT name Hut, 3 * beds "BLANKETS" FROM huts
