SELECT guest, arrival, nights FROM stays WHERE paid_on = '' ORDER BY arrival
