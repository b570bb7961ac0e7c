CREATE TABLE `asset_class_word` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`class_id` int unsigned NOT NULL,
	`kind` enum('symptom','fault','cause','remedy') NOT NULL,
	`position` int NOT NULL,
	`text` varchar(120) NOT NULL,
	CONSTRAINT `asset_class_word_id` PRIMARY KEY(`id`),
	CONSTRAINT `asset_class_word_text` UNIQUE(`class_id`,`kind`,`text`)
);
--> statement-breakpoint
CREATE TABLE `former_decision` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`order_line_id` int unsigned NOT NULL,
	`asset_id` int unsigned,
	`cover_cause` enum('wear','misuse','accident','consumable','unknown'),
	`verdict` json,
	`promises` json NOT NULL,
	`until` datetime(3) NOT NULL,
	CONSTRAINT `former_decision_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `order_setting` (
	`id` int NOT NULL,
	`over_terms` enum('ask','stop','go on') NOT NULL,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `order_setting_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `running_time` (
	`person_id` int unsigned NOT NULL,
	`order_id` int unsigned NOT NULL,
	`order_line_id` int unsigned NOT NULL,
	`kind` enum('work','travel','waiting') NOT NULL,
	`started_at` datetime(3) NOT NULL,
	CONSTRAINT `running_time_person_id` PRIMARY KEY(`person_id`)
);
--> statement-breakpoint
ALTER TABLE `attachment` MODIFY COLUMN `subject` enum('customer','location','asset','agreement','order') NOT NULL;--> statement-breakpoint
ALTER TABLE `order_line` MODIFY COLUMN `asset_id` int unsigned;--> statement-breakpoint
ALTER TABLE `order_line` ADD `location_id` int unsigned;--> statement-breakpoint
ALTER TABLE `order_line` ADD `since` datetime(3);--> statement-breakpoint
ALTER TABLE `order_line` ADD `cover_cause` enum('wear','misuse','accident','consumable','unknown');--> statement-breakpoint
ALTER TABLE `order_line` ADD `asks_findings` boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `order_line` ADD `symptom` varchar(120);--> statement-breakpoint
ALTER TABLE `order_line` ADD `cause_found` varchar(120);--> statement-breakpoint
ALTER TABLE `order_line` ADD `remedy` varchar(120);--> statement-breakpoint
ALTER TABLE `work_order` ADD `caller_said` varchar(200);--> statement-breakpoint
ALTER TABLE `work_order` ADD `contact_id` int unsigned;--> statement-breakpoint
ALTER TABLE `work_order` ADD `customer_reference` varchar(80) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `work_order` ADD `internal` boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `work_order` ADD `follows_id` int unsigned;--> statement-breakpoint
ALTER TABLE `work_order` ADD `handed_on_at` datetime(3);--> statement-breakpoint
ALTER TABLE `work_order` ADD `wished_on` date;--> statement-breakpoint
ALTER TABLE `asset_class_word` ADD CONSTRAINT `asset_class_word_class_id_asset_class_id_fk` FOREIGN KEY (`class_id`) REFERENCES `asset_class`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `former_decision` ADD CONSTRAINT `former_decision_order_line_id_order_line_id_fk` FOREIGN KEY (`order_line_id`) REFERENCES `order_line`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `running_time` ADD CONSTRAINT `running_time_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `running_time` ADD CONSTRAINT `running_time_order_line_id_order_line_id_fk` FOREIGN KEY (`order_line_id`) REFERENCES `order_line`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `former_decision_line` ON `former_decision` (`order_line_id`);--> statement-breakpoint
CREATE INDEX `running_time_order` ON `running_time` (`order_id`);--> statement-breakpoint
CREATE INDEX `order_line_location` ON `order_line` (`location_id`,`order_id`);--> statement-breakpoint
CREATE INDEX `work_order_follows` ON `work_order` (`follows_id`);