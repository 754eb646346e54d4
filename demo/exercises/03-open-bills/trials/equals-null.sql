SELECT guest, arrival, nights FROM stays WHERE paid_on = NULL ORDER BY arrival
