CREATE TABLE `adjustment` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`month` date NOT NULL,
	`thing` enum('response','arrival','restoration','visit') NOT NULL,
	`thing_id` int unsigned NOT NULL,
	`position` smallint NOT NULL,
	`found_on` date NOT NULL,
	`found_at` datetime(3) NOT NULL,
	`before` enum('met','missed','in window','out of window','declined'),
	`after` enum('met','missed','in window','out of window','declined'),
	`order_id` int unsigned,
	`asset_id` int unsigned NOT NULL,
	`agreement_id` int unsigned,
	`customer_id` int unsigned NOT NULL,
	`site_id` int unsigned,
	`depot_id` int unsigned,
	CONSTRAINT `adjustment_id` PRIMARY KEY(`id`),
	CONSTRAINT `adjustment_once` UNIQUE(`month`,`thing`,`thing_id`,`position`)
);
--> statement-breakpoint
CREATE TABLE `closed_count` (
	`month` date NOT NULL,
	`thing` enum('response','arrival','restoration','visit') NOT NULL,
	`thing_id` int unsigned NOT NULL,
	`on_day` date NOT NULL,
	`counted_as` enum('met','missed','in window','out of window','declined') NOT NULL,
	`miss_cause` enum('no access','customer asked for a later date','waiting for parts','nobody was told in time','came late','work took longer'),
	`order_id` int unsigned,
	`asset_id` int unsigned NOT NULL,
	`agreement_id` int unsigned,
	`customer_id` int unsigned NOT NULL,
	`site_id` int unsigned,
	`depot_id` int unsigned,
	CONSTRAINT `closed_count_month_thing_thing_id_pk` PRIMARY KEY(`month`,`thing`,`thing_id`)
);
--> statement-breakpoint
CREATE TABLE `standing_month` (
	`month` date NOT NULL,
	`changes` int NOT NULL DEFAULT 0,
	`summed` int,
	`quarter_summed` int,
	`closed_at` datetime(3),
	`closed_by` int unsigned,
	`reason` varchar(400) NOT NULL DEFAULT '',
	`adjusted` int,
	CONSTRAINT `standing_month_month` PRIMARY KEY(`month`)
);
--> statement-breakpoint
CREATE TABLE `standing_sum` (
	`summed_for` enum('asset','site','agreement','customer','depot','all') NOT NULL,
	`months` smallint NOT NULL,
	`month` date NOT NULL,
	`subject_id` int unsigned NOT NULL,
	`met` int NOT NULL,
	`missed` int NOT NULL,
	`owed` int NOT NULL,
	`in_window` int NOT NULL,
	`declined` int NOT NULL,
	`amiss` int NOT NULL,
	`changes` int NOT NULL,
	CONSTRAINT `standing_sum_summed_for_months_month_subject_id_pk` PRIMARY KEY(`summed_for`,`months`,`month`,`subject_id`)
);
--> statement-breakpoint
DROP INDEX `clock_due` ON `clock`;--> statement-breakpoint
DROP INDEX `clock_asset` ON `clock`;--> statement-breakpoint
DROP INDEX `clock_agreement` ON `clock`;--> statement-breakpoint
ALTER TABLE `visit` ADD `site_id` int unsigned;--> statement-breakpoint
ALTER TABLE `visit` ADD `depot_id` int unsigned;--> statement-breakpoint
ALTER TABLE `clock` ADD `due_on` date;--> statement-breakpoint
ALTER TABLE `clock` ADD `site_id` int unsigned;--> statement-breakpoint
ALTER TABLE `clock` ADD `depot_id` int unsigned;--> statement-breakpoint
ALTER TABLE `clock` ADD `priority` int DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE `clock` ADD `miss_cause` enum('no access','customer asked for a later date','waiting for parts','nobody was told in time','came late','work took longer');--> statement-breakpoint
ALTER TABLE `order_line` ADD `place_id` int unsigned;--> statement-breakpoint
ALTER TABLE `order_line` ADD `site_id` int unsigned;--> statement-breakpoint
CREATE INDEX `adjustment_found` ON `adjustment` (`found_on`);--> statement-breakpoint
CREATE INDEX `closed_count_day` ON `closed_count` (`on_day`,`counted_as`,`asset_id`,`agreement_id`,`customer_id`,`site_id`,`depot_id`,`miss_cause`);--> statement-breakpoint
CREATE INDEX `closed_count_asset` ON `closed_count` (`asset_id`,`on_day`);--> statement-breakpoint
CREATE INDEX `closed_count_site` ON `closed_count` (`site_id`);--> statement-breakpoint
CREATE INDEX `standing_sum_amiss` ON `standing_sum` (`summed_for`,`months`,`month`,`amiss`,`subject_id`);--> statement-breakpoint
CREATE INDEX `visit_site` ON `visit` (`site_id`,`window_to`);--> statement-breakpoint
CREATE INDEX `visit_counted` ON `visit` (`state`,`window_to`,`window_from`,`completed_on`,`asset_id`,`agreement_id`,`site_id`,`depot_id`);--> statement-breakpoint
CREATE INDEX `clock_customer` ON `clock` (`customer_id`,`due_on`);--> statement-breakpoint
CREATE INDEX `clock_site` ON `clock` (`site_id`,`due_on`);--> statement-breakpoint
CREATE INDEX `clock_counted` ON `clock` (`state`,`due_on`,`due_at`,`asset_id`,`agreement_id`,`customer_id`,`site_id`,`depot_id`,`miss_cause`,`target`,`priority`);--> statement-breakpoint
CREATE INDEX `order_line_place` ON `order_line` (`place_id`);--> statement-breakpoint
CREATE INDEX `order_line_site` ON `order_line` (`site_id`);--> statement-breakpoint
CREATE INDEX `clock_asset` ON `clock` (`asset_id`,`due_on`);--> statement-breakpoint
CREATE INDEX `clock_agreement` ON `clock` (`agreement_id`,`due_on`);--> statement-breakpoint
-- Where machines stand now stands for where they stood; days by UTC until clocks are derived again.
UPDATE `order_line` l LEFT JOIN `asset` a ON a.`id` = l.`asset_id`
LEFT JOIN `location` p ON p.`id` = COALESCE(l.`location_id`, a.`location_id`)
SET l.`place_id` = p.`id`, l.`site_id` = CAST(SUBSTRING_INDEX(SUBSTRING(p.`path`, 2), '/', 1) AS UNSIGNED);--> statement-breakpoint
UPDATE `clock` c JOIN `order_line` l ON l.`id` = c.`order_line_id` JOIN `work_order` w ON w.`id` = c.`order_id`
SET c.`due_on` = DATE(c.`due_at`), c.`site_id` = l.`site_id`, c.`depot_id` = w.`depot_id`, c.`priority` = w.`priority`;--> statement-breakpoint
UPDATE `visit` v JOIN `order_line` l ON l.`order_id` = v.`order_id` AND l.`visit_id` = v.`id` JOIN `work_order` w ON w.`id` = v.`order_id`
SET v.`site_id` = l.`site_id`, v.`depot_id` = w.`depot_id`;
