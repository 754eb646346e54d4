SELECT guest, arrival, nights FROM stays WHERE paid_on IS NULL ORDER BY guest
