SELECT guest, arrival, nights FROM stays WHERE paid_on IS NOT NULL ORDER BY arrival
