CREATE TABLE `craft` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`name` varchar(120) NOT NULL,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `craft_id` PRIMARY KEY(`id`),
	CONSTRAINT `craft_name` UNIQUE(`name`)
);
--> statement-breakpoint
CREATE TABLE `rate_card` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`name` varchar(120) NOT NULL,
	`currency` varchar(3) NOT NULL,
	`is_standard` boolean,
	`card` json NOT NULL,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `rate_card_id` PRIMARY KEY(`id`),
	CONSTRAINT `rate_card_name` UNIQUE(`name`),
	CONSTRAINT `rate_card_standard` UNIQUE(`is_standard`)
);
--> statement-breakpoint
CREATE TABLE `time_entry` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`person_id` int unsigned NOT NULL,
	`day` date NOT NULL,
	`kind` enum('work','travel','waiting') NOT NULL,
	`from_at` datetime(3),
	`to_at` datetime(3),
	`minutes` int NOT NULL,
	`hours` enum('normal','outside','night','holiday'),
	`text` varchar(500) NOT NULL DEFAULT '',
	`overlap_reason` varchar(500),
	`counters_id` int unsigned,
	`reason` varchar(500),
	`entered_by` int unsigned NOT NULL,
	`entered_at` datetime(3) NOT NULL,
	`request_key` varchar(60),
	`request_content` varchar(64),
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `time_entry_id` PRIMARY KEY(`id`),
	CONSTRAINT `time_entry_counters` UNIQUE(`counters_id`),
	CONSTRAINT `time_entry_request` UNIQUE(`request_key`)
);
--> statement-breakpoint
CREATE TABLE `time_entry_line` (
	`entry_id` int unsigned NOT NULL,
	`position` int NOT NULL,
	`order_line_id` int unsigned NOT NULL,
	`share` int NOT NULL,
	CONSTRAINT `time_entry_line_entry_id_position_pk` PRIMARY KEY(`entry_id`,`position`)
);
--> statement-breakpoint
CREATE TABLE `time_piece` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`entry_id` int unsigned NOT NULL,
	`order_id` int unsigned NOT NULL,
	`order_line_id` int unsigned NOT NULL,
	`person_id` int unsigned NOT NULL,
	`craft_id` int unsigned,
	`kind` enum('work','travel','waiting') NOT NULL,
	`hours` enum('normal','outside','night','holiday') NOT NULL,
	`day` date NOT NULL,
	`minutes` int NOT NULL,
	CONSTRAINT `time_piece_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `time_sheet` (
	`person_id` int unsigned NOT NULL,
	`week` date NOT NULL,
	`state` enum('open','handed in','approved','sent back') NOT NULL,
	`reason` varchar(500),
	`by` int unsigned,
	`at` datetime(3),
	CONSTRAINT `time_sheet_person_id_week_pk` PRIMARY KEY(`person_id`,`week`)
);
--> statement-breakpoint
ALTER TABLE `person` ADD `craft_id` int unsigned;--> statement-breakpoint
ALTER TABLE `person` ADD `calendar_id` int unsigned;--> statement-breakpoint
ALTER TABLE `time_entry` ADD CONSTRAINT `time_entry_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `time_entry_line` ADD CONSTRAINT `time_entry_line_entry_id_time_entry_id_fk` FOREIGN KEY (`entry_id`) REFERENCES `time_entry`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `time_entry_line` ADD CONSTRAINT `time_entry_line_order_line_id_order_line_id_fk` FOREIGN KEY (`order_line_id`) REFERENCES `order_line`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `time_piece` ADD CONSTRAINT `time_piece_entry_id_time_entry_id_fk` FOREIGN KEY (`entry_id`) REFERENCES `time_entry`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `time_sheet` ADD CONSTRAINT `time_sheet_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `time_entry_person` ON `time_entry` (`person_id`,`day`);--> statement-breakpoint
CREATE INDEX `time_entry_line_line` ON `time_entry_line` (`order_line_id`);--> statement-breakpoint
CREATE INDEX `time_piece_entry` ON `time_piece` (`entry_id`);--> statement-breakpoint
CREATE INDEX `time_piece_order` ON `time_piece` (`order_id`);--> statement-breakpoint
CREATE INDEX `time_piece_person` ON `time_piece` (`person_id`,`day`);--> statement-breakpoint
CREATE INDEX `time_sheet_week` ON `time_sheet` (`week`);