SELECT name, CASE WHEN beds < 20 THEN 'Small' WHEN beds < 40 THEN 'Middling' ELSE 'Large' END FROM huts
