-- Adds up the rows of `cursorum summary --format jsonl`: cat *.jsonl | sqlite3 :memory: '.read docs/guide/fold.sql'
CREATE TABLE rows (row TEXT);
.mode ascii
.separator "\037" "\n"
.import /dev/stdin rows

-- The bins of lengths: from 0, 1, 1.5, 2, 3, 4, 6 … ms.
CREATE VIEW edges AS
WITH RECURSIVE doubles(n, ms) AS (SELECT 0, 1.0 UNION ALL SELECT n + 1, ms * 2 FROM doubles WHERE n < 16)
SELECT 0 AS bin, 0.0 AS ms
UNION ALL SELECT 2 * n + 1, ms FROM doubles
UNION ALL SELECT 2 * n + 2, ms * 1.5 FROM doubles;

CREATE VIEW holds AS
SELECT c.value ->> 'control' AS control, b.key AS bin, sum(b.value) AS count
FROM rows, json_each(row, '$.controls') AS c, json_each(c.value, '$.holds.bins') AS b
GROUP BY 1, 2;

-- The first bin with half of the holds below its end.
CREATE VIEW medians AS
SELECT control, min(bin) AS bin
FROM (SELECT control, bin, sum(count) OVER (PARTITION BY control ORDER BY bin) AS below,
             sum(count) OVER (PARTITION BY control) AS every FROM holds)
WHERE 2 * below >= every
GROUP BY control;

.mode column
SELECT c.value ->> 'control' AS control,
       count(*) AS sessions,
       sum(c.value ->> 'presses') AS presses,
       sum(c.value ->> 'cancelled') AS cancelled,
       sum(c.value ->> 'shorter_than_a_frame_at_60') AS lost_at_60,
       (SELECT printf('%g to %g ms', f.ms, t.ms) FROM medians m
        JOIN edges f ON f.bin = m.bin JOIN edges t ON t.bin = m.bin + 1
        WHERE m.control = c.value ->> 'control') AS median_hold
FROM rows, json_each(row, '$.controls') AS c
GROUP BY control
ORDER BY presses DESC, control;
