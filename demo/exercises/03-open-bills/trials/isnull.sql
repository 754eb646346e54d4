SELECT guest, arrival, nights FROM stays WHERE paid_on ISNULL ORDER BY arrival, guest
