CREATE TABLE `asset_model` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`class_id` int unsigned NOT NULL,
	`maker` varchar(120) NOT NULL,
	`name` varchar(120) NOT NULL,
	`warranty_months` int NOT NULL DEFAULT 0,
	`warranty_labour` int NOT NULL DEFAULT 100,
	`warranty_parts` int NOT NULL DEFAULT 100,
	`warranty_travel` int NOT NULL DEFAULT 100,
	`warranty_visits` int NOT NULL DEFAULT 0,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `asset_model_id` PRIMARY KEY(`id`),
	CONSTRAINT `asset_model_name` UNIQUE(`maker`,`name`)
);
--> statement-breakpoint
CREATE TABLE `asset_class_job_plan` (
	`class_id` int unsigned NOT NULL,
	`job_plan_id` int unsigned NOT NULL,
	CONSTRAINT `asset_class_job_plan_class_id_job_plan_id_pk` PRIMARY KEY(`class_id`,`job_plan_id`)
);
--> statement-breakpoint
CREATE TABLE `asset_class_meter` (
	`class_id` int unsigned NOT NULL,
	`name` varchar(60) NOT NULL,
	`unit` varchar(20) NOT NULL,
	`channel` varchar(60),
	CONSTRAINT `asset_class_meter_class_id_name_pk` PRIMARY KEY(`class_id`,`name`)
);
--> statement-breakpoint
CREATE TABLE `contact` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`customer_id` int unsigned NOT NULL,
	`name` varchar(120) NOT NULL,
	`role` varchar(120),
	`email` varchar(200),
	`phone` varchar(60),
	`preferred` enum('e-mail','phone','text message') NOT NULL,
	`import_id` int unsigned,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `contact_id` PRIMARY KEY(`id`),
	CONSTRAINT `contact_customer` UNIQUE(`customer_id`,`name`)
);
--> statement-breakpoint
CREATE TABLE `customer_note` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`customer_id` int unsigned NOT NULL,
	`text` varchar(1000) NOT NULL,
	`pops_up` boolean NOT NULL,
	`at` datetime(3) NOT NULL,
	`person_id` int unsigned,
	CONSTRAINT `customer_note_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `meter` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`asset_id` int unsigned NOT NULL,
	`name` varchar(60) NOT NULL,
	`unit` varchar(20) NOT NULL,
	`channel` varchar(60),
	`import_id` int unsigned,
	CONSTRAINT `meter_id` PRIMARY KEY(`id`),
	CONSTRAINT `meter_asset` UNIQUE(`asset_id`,`name`)
);
--> statement-breakpoint
CREATE TABLE `meter_reading` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`meter_id` int unsigned NOT NULL,
	`at` datetime(3) NOT NULL,
	`value` double NOT NULL,
	`source` enum('typed','field','signal','import') NOT NULL,
	`anew` enum('meter replaced','meter reset'),
	`struck_out` boolean NOT NULL DEFAULT false,
	`person_id` int unsigned,
	`import_id` int unsigned,
	CONSTRAINT `meter_reading_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `technician_wish` (
	`customer_id` int unsigned NOT NULL,
	`person_id` int unsigned NOT NULL,
	`wish` enum('preferred','blocked') NOT NULL,
	CONSTRAINT `technician_wish_customer_id_person_id_pk` PRIMARY KEY(`customer_id`,`person_id`)
);
--> statement-breakpoint
CREATE TABLE `find_gram` (
	`gram` varchar(3) character set utf8mb4 collate utf8mb4_bin NOT NULL,
	`word_id` int unsigned NOT NULL,
	CONSTRAINT `find_gram_gram_word_id_pk` PRIMARY KEY(`gram`,`word_id`)
);
--> statement-breakpoint
CREATE TABLE `find_posting` (
	`word_id` int unsigned NOT NULL,
	`kind` enum('asset','customer','location','agreement','order') NOT NULL,
	`subject_id` int unsigned NOT NULL,
	CONSTRAINT `find_posting_word_id_kind_subject_id_pk` PRIMARY KEY(`word_id`,`kind`,`subject_id`)
);
--> statement-breakpoint
CREATE TABLE `find_word` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`word` varchar(40) character set utf8mb4 collate utf8mb4_bin NOT NULL,
	CONSTRAINT `find_word_id` PRIMARY KEY(`id`),
	CONSTRAINT `find_word_word` UNIQUE(`word`)
);
--> statement-breakpoint
CREATE TABLE `attachment` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`subject` enum('customer','location','asset','agreement') NOT NULL,
	`subject_id` int unsigned NOT NULL,
	`name` varchar(200) NOT NULL,
	`sha256` varchar(64) NOT NULL,
	`at` datetime(3) NOT NULL,
	`person_id` int unsigned,
	CONSTRAINT `attachment_id` PRIMARY KEY(`id`),
	CONSTRAINT `attachment_subject` UNIQUE(`subject`,`subject_id`,`name`)
);
--> statement-breakpoint
CREATE TABLE `file_chunk` (
	`sha256` varchar(64) NOT NULL,
	`part` int NOT NULL,
	`data` mediumblob NOT NULL,
	CONSTRAINT `file_chunk_sha256_part_pk` PRIMARY KEY(`sha256`,`part`)
);
--> statement-breakpoint
CREATE TABLE `file_content` (
	`sha256` varchar(64) NOT NULL,
	`bytes` int unsigned NOT NULL,
	`media_type` varchar(80) NOT NULL,
	CONSTRAINT `file_content_sha256` PRIMARY KEY(`sha256`)
);
--> statement-breakpoint
CREATE TABLE `import_before` (
	`import_id` int unsigned NOT NULL,
	`subject` enum('asset','customer','contact','location') NOT NULL,
	`subject_id` int unsigned NOT NULL,
	`version` int NOT NULL,
	`before_values` json NOT NULL,
	CONSTRAINT `import_before_import_id_subject_subject_id_pk` PRIMARY KEY(`import_id`,`subject`,`subject_id`)
);
--> statement-breakpoint
CREATE TABLE `import_mapping` (
	`kind` enum('assets','customers','contacts','locations','meters','readings') NOT NULL,
	`head` varchar(64) NOT NULL,
	`settings` json NOT NULL,
	CONSTRAINT `import_mapping_kind_head_pk` PRIMARY KEY(`kind`,`head`)
);
--> statement-breakpoint
CREATE TABLE `import_run` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`kind` enum('assets','customers','contacts','locations','meters','readings') NOT NULL,
	`file_name` varchar(200) NOT NULL,
	`sha256` varchar(64) NOT NULL,
	`settings` json NOT NULL,
	`state` enum('read','running','done','cancelled','failed','undone') NOT NULL,
	`rows` int NOT NULL,
	`rows_done` int NOT NULL DEFAULT 0,
	`tally` json NOT NULL,
	`created_at` datetime(3) NOT NULL,
	`person_id` int unsigned,
	`lease_until` datetime(3),
	`problem` varchar(500),
	CONSTRAINT `import_run_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
ALTER TABLE `asset_event` MODIFY COLUMN `kind` enum('registered','changed','retired','installed','moved','swapped in','swapped out','removed','scrapped','out of service','back in service','merged') NOT NULL;--> statement-breakpoint
ALTER TABLE `asset_class` ADD `version` int DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE `asset` ADD `rented_since` date;--> statement-breakpoint
ALTER TABLE `asset` ADD `warranty_from` date;--> statement-breakpoint
ALTER TABLE `asset` ADD `warranty_labour` int DEFAULT 100 NOT NULL;--> statement-breakpoint
ALTER TABLE `asset` ADD `warranty_parts` int DEFAULT 100 NOT NULL;--> statement-breakpoint
ALTER TABLE `asset` ADD `warranty_travel` int DEFAULT 100 NOT NULL;--> statement-breakpoint
ALTER TABLE `asset` ADD `warranty_visits` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `asset` ADD `import_id` int unsigned;--> statement-breakpoint
ALTER TABLE `customer` ADD `credit_days` int;--> statement-breakpoint
ALTER TABLE `customer` ADD `credit_limit` bigint;--> statement-breakpoint
ALTER TABLE `customer` ADD `credit_currency` varchar(3) DEFAULT 'EUR' NOT NULL;--> statement-breakpoint
ALTER TABLE `customer` ADD `over_since` date;--> statement-breakpoint
ALTER TABLE `customer` ADD `import_id` int unsigned;--> statement-breakpoint
ALTER TABLE `location` ADD `calendar_id` int unsigned;--> statement-breakpoint
ALTER TABLE `location` ADD `access_note` varchar(1000);--> statement-breakpoint
ALTER TABLE `location` ADD `retired_on` date;--> statement-breakpoint
ALTER TABLE `location` ADD `import_id` int unsigned;--> statement-breakpoint
ALTER TABLE `order_line` ADD `fault` varchar(120);--> statement-breakpoint
ALTER TABLE `order_line` ADD `labour_minutes` int;--> statement-breakpoint
ALTER TABLE `order_line` ADD `parts_cost` bigint;--> statement-breakpoint
ALTER TABLE `order_line` ADD `other_cost` bigint;--> statement-breakpoint
ALTER TABLE `asset_model` ADD CONSTRAINT `asset_model_class_id_asset_class_id_fk` FOREIGN KEY (`class_id`) REFERENCES `asset_class`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `asset_class_job_plan` ADD CONSTRAINT `asset_class_job_plan_class_id_asset_class_id_fk` FOREIGN KEY (`class_id`) REFERENCES `asset_class`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `asset_class_job_plan` ADD CONSTRAINT `asset_class_job_plan_job_plan_id_job_plan_id_fk` FOREIGN KEY (`job_plan_id`) REFERENCES `job_plan`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `asset_class_meter` ADD CONSTRAINT `asset_class_meter_class_id_asset_class_id_fk` FOREIGN KEY (`class_id`) REFERENCES `asset_class`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `contact` ADD CONSTRAINT `contact_customer_id_customer_id_fk` FOREIGN KEY (`customer_id`) REFERENCES `customer`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `customer_note` ADD CONSTRAINT `customer_note_customer_id_customer_id_fk` FOREIGN KEY (`customer_id`) REFERENCES `customer`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `meter` ADD CONSTRAINT `meter_asset_id_asset_id_fk` FOREIGN KEY (`asset_id`) REFERENCES `asset`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `meter_reading` ADD CONSTRAINT `meter_reading_meter_id_meter_id_fk` FOREIGN KEY (`meter_id`) REFERENCES `meter`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `technician_wish` ADD CONSTRAINT `technician_wish_customer_id_customer_id_fk` FOREIGN KEY (`customer_id`) REFERENCES `customer`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `technician_wish` ADD CONSTRAINT `technician_wish_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `attachment` ADD CONSTRAINT `attachment_sha256_file_content_sha256_fk` FOREIGN KEY (`sha256`) REFERENCES `file_content`(`sha256`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `file_chunk` ADD CONSTRAINT `file_chunk_sha256_file_content_sha256_fk` FOREIGN KEY (`sha256`) REFERENCES `file_content`(`sha256`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `import_before` ADD CONSTRAINT `import_before_import_id_import_run_id_fk` FOREIGN KEY (`import_id`) REFERENCES `import_run`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `asset_model_class` ON `asset_model` (`class_id`);--> statement-breakpoint
CREATE INDEX `contact_import` ON `contact` (`import_id`);--> statement-breakpoint
CREATE INDEX `customer_note_customer` ON `customer_note` (`customer_id`);--> statement-breakpoint
CREATE INDEX `meter_import` ON `meter` (`import_id`);--> statement-breakpoint
CREATE INDEX `meter_reading_meter` ON `meter_reading` (`meter_id`,`at`);--> statement-breakpoint
CREATE INDEX `meter_reading_import` ON `meter_reading` (`import_id`);--> statement-breakpoint
CREATE INDEX `find_posting_subject` ON `find_posting` (`kind`,`subject_id`,`word_id`);--> statement-breakpoint
CREATE INDEX `attachment_content` ON `attachment` (`sha256`);--> statement-breakpoint
CREATE INDEX `import_run_state` ON `import_run` (`state`,`lease_until`);--> statement-breakpoint
CREATE INDEX `import_run_created` ON `import_run` (`created_at`);--> statement-breakpoint
ALTER TABLE `location` ADD CONSTRAINT `location_calendar_id_calendar_id_fk` FOREIGN KEY (`calendar_id`) REFERENCES `calendar`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `asset_import` ON `asset` (`import_id`);--> statement-breakpoint
CREATE INDEX `asset_model` ON `asset` (`maker`,`model`);--> statement-breakpoint
CREATE INDEX `asset_warranty` ON `asset` (`warranty_until`);--> statement-breakpoint
CREATE INDEX `customer_import` ON `customer` (`import_id`);--> statement-breakpoint
CREATE INDEX `location_import` ON `location` (`import_id`);--> statement-breakpoint
UPDATE `asset` SET `warranty_from` = `commissioned` WHERE `warranty_until` IS NOT NULL;
