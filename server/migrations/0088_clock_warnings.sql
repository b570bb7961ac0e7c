CREATE TABLE `clock_warning` (
	`order_line_id` int unsigned NOT NULL,
	`target` enum('response','arrival','workaround','restoration') NOT NULL,
	`promised_minutes` int NOT NULL,
	`percent` int NOT NULL,
	`order_id` int unsigned NOT NULL,
	`at` datetime(3) NOT NULL,
	`told` json NOT NULL,
	`acknowledged_at` datetime(3),
	`acknowledged_by` int unsigned,
	CONSTRAINT `clock_warning_order_line_id_target_promised_minutes_percent_pk` PRIMARY KEY(`order_line_id`,`target`,`promised_minutes`,`percent`)
);
--> statement-breakpoint
ALTER TABLE `clock` MODIFY COLUMN `target` enum('response','arrival','workaround','restoration') NOT NULL;--> statement-breakpoint
ALTER TABLE `adjustment` MODIFY COLUMN `thing` enum('response','arrival','workaround','restoration','visit') NOT NULL;--> statement-breakpoint
ALTER TABLE `closed_count` MODIFY COLUMN `thing` enum('response','arrival','workaround','restoration','visit') NOT NULL;--> statement-breakpoint
ALTER TABLE `clock` ADD `short_at` datetime(3);--> statement-breakpoint
ALTER TABLE `clock` ADD `warn_steps` json;--> statement-breakpoint
ALTER TABLE `clock` ADD `warn_at` datetime(3);--> statement-breakpoint
ALTER TABLE `order_setting` ADD `priorities` json;--> statement-breakpoint
ALTER TABLE `work_order` ADD `in_charge_id` int unsigned;--> statement-breakpoint
ALTER TABLE `clock_warning` ADD CONSTRAINT `clock_warning_order_line_id_order_line_id_fk` FOREIGN KEY (`order_line_id`) REFERENCES `order_line`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `clock_warning_order` ON `clock_warning` (`order_id`);--> statement-breakpoint
CREATE INDEX `clock_warn` ON `clock` (`state`,`warn_at`);--> statement-breakpoint
UPDATE `service_level` SET `pledge` = JSON_SET(`pledge`, '$.warnings', JSON_ARRAY(), '$.upkeep', NULL) WHERE JSON_TYPE(`pledge`) = 'OBJECT';--> statement-breakpoint
UPDATE `service_level_past` SET `pledge` = JSON_SET(`pledge`, '$.warnings', JSON_ARRAY(), '$.upkeep', NULL) WHERE JSON_TYPE(`pledge`) = 'OBJECT';--> statement-breakpoint
-- From when they run short is found with the next derivation, which is marked as due.
UPDATE `clock` SET `derivation` = 0 WHERE `state` IN ('running', 'paused');
