CREATE TABLE `line_schedule` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`agreement_id` int unsigned NOT NULL,
	`line_id` int unsigned NOT NULL,
	`terms` json NOT NULL,
	CONSTRAINT `line_schedule_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
ALTER TABLE `schedule` ADD `line_schedule_id` int unsigned;--> statement-breakpoint
ALTER TABLE `schedule` ADD `joined_at` datetime(3);--> statement-breakpoint
ALTER TABLE `schedule` ADD `left_at` datetime(3);--> statement-breakpoint
ALTER TABLE `line_schedule` ADD CONSTRAINT `line_schedule_agreement_id_agreement_id_fk` FOREIGN KEY (`agreement_id`) REFERENCES `agreement`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `line_schedule_agreement` ON `line_schedule` (`agreement_id`);--> statement-breakpoint
ALTER TABLE `schedule` ADD CONSTRAINT `schedule_line_schedule_id_line_schedule_id_fk` FOREIGN KEY (`line_schedule_id`) REFERENCES `line_schedule`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `schedule_joined` ON `schedule` (`joined_at`);--> statement-breakpoint
CREATE INDEX `schedule_left` ON `schedule` (`left_at`);