CREATE TABLE `mail` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`message_id` varchar(255) NOT NULL,
	`sha256` varchar(64) NOT NULL,
	`bytes` int NOT NULL,
	`return_path` varchar(320) NOT NULL,
	`received_at` datetime(3) NOT NULL,
	`state` enum('to look at','on an order','put away') NOT NULL,
	`is_read` boolean NOT NULL DEFAULT false,
	`problem` varchar(300),
	`from_name` varchar(200) NOT NULL DEFAULT '',
	`from_address` varchar(320) NOT NULL DEFAULT '',
	`subject` varchar(300) NOT NULL DEFAULT '',
	`text` mediumtext,
	`sent_at` datetime(3),
	`thread_ids` json NOT NULL DEFAULT ('[]'),
	`is_automatic` boolean NOT NULL DEFAULT false,
	`not_kept` json NOT NULL DEFAULT ('[]'),
	`contact_id` int unsigned,
	`customer_id` int unsigned,
	`order_id` int unsigned,
	`put_away_reason` varchar(300),
	`person_id` int unsigned,
	CONSTRAINT `mail_id` PRIMARY KEY(`id`),
	CONSTRAINT `mail_message` UNIQUE(`message_id`)
);
--> statement-breakpoint
ALTER TABLE `attachment` MODIFY COLUMN `subject` enum('customer','location','asset','agreement','order','mail') NOT NULL;--> statement-breakpoint
ALTER TABLE `contact` ADD `language` enum('en','pt') DEFAULT 'en' NOT NULL;--> statement-breakpoint
ALTER TABLE `outbox` ADD `in_reply_to` varchar(255);--> statement-breakpoint
ALTER TABLE `outbox` ADD `thread_ids` json DEFAULT ('[]') NOT NULL;--> statement-breakpoint
ALTER TABLE `outbox` ADD `paper_sha256` varchar(64);--> statement-breakpoint
ALTER TABLE `outbox` ADD `paper_name` varchar(200);--> statement-breakpoint
ALTER TABLE `mail` ADD CONSTRAINT `mail_sha256_file_content_sha256_fk` FOREIGN KEY (`sha256`) REFERENCES `file_content`(`sha256`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `mail` ADD CONSTRAINT `mail_contact_id_contact_id_fk` FOREIGN KEY (`contact_id`) REFERENCES `contact`(`id`) ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `mail` ADD CONSTRAINT `mail_customer_id_customer_id_fk` FOREIGN KEY (`customer_id`) REFERENCES `customer`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `mail` ADD CONSTRAINT `mail_order_id_work_order_id_fk` FOREIGN KEY (`order_id`) REFERENCES `work_order`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `mail` ADD CONSTRAINT `mail_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `mail_state` ON `mail` (`state`,`id`);--> statement-breakpoint
CREATE INDEX `mail_order` ON `mail` (`order_id`);--> statement-breakpoint
CREATE INDEX `mail_from` ON `mail` (`from_address`);--> statement-breakpoint
CREATE INDEX `contact_email` ON `contact` (`email`);