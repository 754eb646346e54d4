DELETE FROM huts WHERE altitude_m < 2000;
