CREATE TABLE `alert_flood` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`location_id` int unsigned NOT NULL,
	`customer_id` int unsigned NOT NULL,
	`from` datetime(3) NOT NULL,
	`until` datetime(3),
	`order_id` int unsigned,
	CONSTRAINT `alert_flood_id` PRIMARY KEY(`id`),
	CONSTRAINT `alert_flood_identity` UNIQUE(`location_id`,`customer_id`,`from`)
);
--> statement-breakpoint
CREATE TABLE `alert_shelf` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`rule_id` int unsigned NOT NULL,
	`asset_id` int unsigned NOT NULL,
	`from` datetime(3) NOT NULL,
	`until` datetime(3) NOT NULL,
	`reason` varchar(300) NOT NULL,
	`person_id` int unsigned NOT NULL,
	`ended_by` int unsigned,
	CONSTRAINT `alert_shelf_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `alert_told` (
	`alert_id` int unsigned NOT NULL,
	`step` int NOT NULL,
	`person_id` int unsigned NOT NULL,
	`at` datetime(3) NOT NULL,
	CONSTRAINT `alert_told_alert_id_step_pk` PRIMARY KEY(`alert_id`,`step`)
);
--> statement-breakpoint
ALTER TABLE `alert` ADD `told_at` datetime(3);--> statement-breakpoint
ALTER TABLE `alert` ADD `held_by` enum('shelved','suppressed');--> statement-breakpoint
ALTER TABLE `alert` ADD `acknowledged_at` datetime(3);--> statement-breakpoint
ALTER TABLE `alert` ADD `acknowledged_by` int unsigned;--> statement-breakpoint
ALTER TABLE `alert` ADD `flood_id` int unsigned;--> statement-breakpoint
ALTER TABLE `alert_rule` ADD `ask_first` boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `alert_rule` ADD `order_text` varchar(500) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `alert_rule` ADD `likely_cause` varchar(200) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `alert_rule` ADD `job_plan_id` int unsigned;--> statement-breakpoint
ALTER TABLE `alert_rule` ADD `watch_calendar_id` int unsigned;--> statement-breakpoint
ALTER TABLE `alert_rule` ADD `suppressed_by` json;--> statement-breakpoint
ALTER TABLE `alert_rule` ADD `tells` json;--> statement-breakpoint
ALTER TABLE `alert_shelf` ADD CONSTRAINT `alert_shelf_rule_id_alert_rule_id_fk` FOREIGN KEY (`rule_id`) REFERENCES `alert_rule`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `alert_shelf` ADD CONSTRAINT `alert_shelf_asset_id_asset_id_fk` FOREIGN KEY (`asset_id`) REFERENCES `asset`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `alert_told` ADD CONSTRAINT `alert_told_alert_id_alert_id_fk` FOREIGN KEY (`alert_id`) REFERENCES `alert`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `alert_shelf_asset` ON `alert_shelf` (`asset_id`,`rule_id`,`until`);--> statement-breakpoint
CREATE INDEX `alert_shelf_until` ON `alert_shelf` (`until`);--> statement-breakpoint
ALTER TABLE `alert_rule` ADD CONSTRAINT `alert_rule_watch_calendar_id_calendar_id_fk` FOREIGN KEY (`watch_calendar_id`) REFERENCES `calendar`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `alert_started` ON `alert` (`started_at`);--> statement-breakpoint
CREATE INDEX `alert_untold` ON `alert` (`told_at`,`ended_at`);--> statement-breakpoint
CREATE INDEX `alert_order` ON `alert` (`order_id`);--> statement-breakpoint
UPDATE `alert` SET `told_at` = `started_at`;
