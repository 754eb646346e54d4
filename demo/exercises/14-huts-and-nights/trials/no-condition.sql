SELECT h.name, s.stay_id, s.nights FROM huts h, stays s;
