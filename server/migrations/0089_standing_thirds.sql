DROP INDEX `standing_sum_amiss` ON `standing_sum`;--> statement-breakpoint
ALTER TABLE `standing_month` ADD `thirds` tinyint DEFAULT 3 NOT NULL;--> statement-breakpoint
ALTER TABLE `standing_sum` ADD `met10` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `standing_sum` ADD `missed10` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `standing_sum` ADD `owed10` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `standing_sum` ADD `in_window10` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `standing_sum` ADD `declined10` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `standing_sum` ADD `met20` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `standing_sum` ADD `missed20` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `standing_sum` ADD `owed20` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `standing_sum` ADD `in_window20` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `standing_sum` ADD `declined20` int DEFAULT 0 NOT NULL;
--> statement-breakpoint
UPDATE `standing_sum` s JOIN (
  SELECT month, summed_for, subject_id,
    SUM(day <= 10 AND counted_as = 'met') met10, SUM(day <= 10 AND counted_as = 'missed') missed10,
    SUM(day <= 10 AND counted_as IN ('in window', 'out of window')) owed10,
    SUM(day <= 10 AND counted_as = 'in window') in_window10, SUM(day <= 10 AND counted_as = 'declined') declined10,
    SUM(day <= 20 AND counted_as = 'met') met20, SUM(day <= 20 AND counted_as = 'missed') missed20,
    SUM(day <= 20 AND counted_as IN ('in window', 'out of window')) owed20,
    SUM(day <= 20 AND counted_as = 'in window') in_window20, SUM(day <= 20 AND counted_as = 'declined') declined20
  FROM (
    SELECT c.month, f.summed_for, c.counted_as, DAYOFMONTH(c.on_day) day,
      CASE f.summed_for WHEN 'asset' THEN c.asset_id WHEN 'site' THEN COALESCE(c.site_id, 0)
        WHEN 'agreement' THEN COALESCE(c.agreement_id, 0) WHEN 'customer' THEN c.customer_id
        WHEN 'depot' THEN COALESCE(c.depot_id, 0) ELSE 0 END subject_id
    FROM closed_count c
    JOIN (SELECT 'asset' summed_for UNION ALL SELECT 'site' UNION ALL SELECT 'agreement' UNION ALL SELECT 'customer'
      UNION ALL SELECT 'depot' UNION ALL SELECT 'all') f
    WHERE f.summed_for <> 'asset' OR c.counted_as IN ('missed', 'out of window')) counted
  GROUP BY month, summed_for, subject_id) x
  ON s.months = 1 AND s.month = x.month AND s.summed_for = x.summed_for AND s.subject_id = x.subject_id
SET s.met10 = x.met10, s.missed10 = x.missed10, s.owed10 = x.owed10, s.in_window10 = x.in_window10, s.declined10 = x.declined10,
  s.met20 = x.met20, s.missed20 = x.missed20, s.owed20 = x.owed20, s.in_window20 = x.in_window20, s.declined20 = x.declined20;--> statement-breakpoint
UPDATE `standing_month` SET changes = changes + 1 WHERE closed_at IS NULL;
