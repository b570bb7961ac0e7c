CREATE TABLE `offer` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`customer_id` int unsigned NOT NULL,
	`location_id` int unsigned,
	`contact_id` int unsigned,
	`asset_ids` json NOT NULL,
	`kind` varchar(20) NOT NULL,
	`title` varchar(120) NOT NULL,
	`text` text NOT NULL,
	`currency` varchar(3) NOT NULL,
	`lines` json NOT NULL,
	`without_tax` bigint NOT NULL,
	`valid_until` date NOT NULL,
	`state` enum('draft','sent','accepted','declined','withdrawn') NOT NULL,
	`created_at` datetime(3) NOT NULL,
	`person_id` int unsigned,
	`sent_at` datetime(3),
	`sent_to` varchar(320),
	`decided_at` datetime(3),
	`decision` varchar(300),
	`order_id` int unsigned,
	`from_order_id` int unsigned,
	`from_mail_id` int unsigned,
	`request_key` varchar(60),
	`request_content` varchar(64),
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `offer_id` PRIMARY KEY(`id`),
	CONSTRAINT `offer_request` UNIQUE(`request_key`)
);
--> statement-breakpoint
ALTER TABLE `attachment` MODIFY COLUMN `subject` enum('customer','location','asset','agreement','order','mail','offer') NOT NULL;--> statement-breakpoint
ALTER TABLE `offer` ADD CONSTRAINT `offer_customer_id_customer_id_fk` FOREIGN KEY (`customer_id`) REFERENCES `customer`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `offer` ADD CONSTRAINT `offer_location_id_location_id_fk` FOREIGN KEY (`location_id`) REFERENCES `location`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `offer` ADD CONSTRAINT `offer_contact_id_contact_id_fk` FOREIGN KEY (`contact_id`) REFERENCES `contact`(`id`) ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `offer` ADD CONSTRAINT `offer_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `offer_state` ON `offer` (`state`,`id`);--> statement-breakpoint
CREATE INDEX `offer_customer` ON `offer` (`customer_id`,`id`);--> statement-breakpoint
CREATE INDEX `offer_order` ON `offer` (`order_id`);--> statement-breakpoint
CREATE INDEX `offer_from_order` ON `offer` (`from_order_id`);