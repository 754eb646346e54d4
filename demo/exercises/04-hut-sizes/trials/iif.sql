SELECT name, IIF(beds < 20, 'small', IIF(beds < 40, 'middling', 'large')) FROM huts
