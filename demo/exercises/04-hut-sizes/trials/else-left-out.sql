SELECT name, CASE WHEN beds < 20 THEN 'small' WHEN beds < 40 THEN 'middling' END FROM huts
