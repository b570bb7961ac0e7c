CREATE TABLE `asset_past_stay` (
	`asset_id` int unsigned NOT NULL,
	`until` date NOT NULL,
	`location_id` int unsigned,
	`customer_id` int unsigned NOT NULL,
	CONSTRAINT `asset_past_stay_asset_id_until_pk` PRIMARY KEY(`asset_id`,`until`)
);
--> statement-breakpoint
ALTER TABLE `schedule` ADD `holds_from` date;--> statement-breakpoint
ALTER TABLE `schedule` ADD `holds_to` date;--> statement-breakpoint
ALTER TABLE `asset_past_stay` ADD CONSTRAINT `asset_past_stay_asset_id_asset_id_fk` FOREIGN KEY (`asset_id`) REFERENCES `asset`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `asset_past_stay` ADD CONSTRAINT `asset_past_stay_location_id_location_id_fk` FOREIGN KEY (`location_id`) REFERENCES `location`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `asset_past_stay` ADD CONSTRAINT `asset_past_stay_customer_id_customer_id_fk` FOREIGN KEY (`customer_id`) REFERENCES `customer`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `asset_past_stay_location` ON `asset_past_stay` (`location_id`);