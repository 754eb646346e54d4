"""The functions of MariaDB that queries may call: the server itself lists none.

From https://mariadb.com/kb/en/function-and-operator-reference/, without those that are refused.
"""

from __future__ import annotations

from typing import Final

FUNCTIONS: Final = frozenset(
    """
    abs acos adddate addtime ascii asin atan atan2 avg bin bit_and bit_count bit_length bit_or bit_xor
    cast ceil ceiling char char_length character_length charset chr coalesce coercibility collation concat
    concat_ws conv convert convert_tz cos cot count crc32 cume_dist curdate current_date current_time
    current_timestamp curtime date date_add date_format date_sub datediff day dayname dayofmonth dayofweek
    dayofyear degrees dense_rank elt exp extract field find_in_set first_value floor format from_days
    from_unixtime greatest group_concat hex hour if ifnull insert instr isnull json_array json_arrayagg
    json_contains json_extract json_keys json_length json_object json_objectagg json_query json_search
    json_type json_unquote json_valid json_value lag last_day last_value lcase lead least left length
    length ln locate log log10 log2 lower lpad ltrim makedate maketime max md5 microsecond mid min minute mod
    month monthname now nth_value ntile nullif nvl nvl2 oct octet_length ord percent_rank period_add
    period_diff pi position pow power quarter quote radians rand rank regexp_instr regexp_replace
    regexp_substr repeat replace reverse right round row_number rpad rtrim sec_to_time second sha1 sha2 sign
    sin soundex space sqrt std stddev stddev_pop stddev_samp str_to_date strcmp subdate substr substring
    substring_index subtime sum sysdate tan time time_format time_to_sec timediff timestamp timestampadd
    timestampdiff to_char to_days trim truncate ucase unhex unix_timestamp upper utc_date utc_time
    utc_timestamp uuid var_pop var_samp variance version week weekday weekofyear year yearweek
    """.split()  # noqa: SIM905
)
