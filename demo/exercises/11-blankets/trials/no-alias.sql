SELECT name, beds * 3 FROM huts
