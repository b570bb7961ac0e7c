CREATE TABLE `visit_pattern` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`name` varchar(120) NOT NULL,
	`class_id` int unsigned,
	`terms` json NOT NULL,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `visit_pattern_id` PRIMARY KEY(`id`),
	CONSTRAINT `visit_pattern_name` UNIQUE(`name`)
);
--> statement-breakpoint
ALTER TABLE `calendar_feed` ADD `request_key` varchar(60);--> statement-breakpoint
UPDATE `calendar_feed` SET `request_key` = LEFT(`secret_hash`, 60);--> statement-breakpoint
ALTER TABLE `calendar_feed` MODIFY `request_key` varchar(60) NOT NULL;--> statement-breakpoint
ALTER TABLE `schedule` ADD `pattern_id` int unsigned;--> statement-breakpoint
ALTER TABLE `schedule` ADD `replaced_by_id` int unsigned;--> statement-breakpoint
ALTER TABLE `calendar_feed` ADD CONSTRAINT `calendar_feed_request` UNIQUE(`request_key`);--> statement-breakpoint
ALTER TABLE `schedule` ADD CONSTRAINT `schedule_pattern_id_visit_pattern_id_fk` FOREIGN KEY (`pattern_id`) REFERENCES `visit_pattern`(`id`) ON DELETE no action ON UPDATE no action;