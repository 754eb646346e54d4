SELECT guest, arrival, nights
FROM stays
WHERE NOT (paid_on IS NOT NULL)
ORDER BY arrival;
