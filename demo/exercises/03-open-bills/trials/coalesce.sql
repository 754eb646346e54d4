SELECT guest, arrival, nights FROM stays WHERE COALESCE(paid_on, 'open') = 'open' ORDER BY arrival
