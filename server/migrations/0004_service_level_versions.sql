CREATE TABLE `service_level_past` (
	`service_level_id` int unsigned NOT NULL,
	`held_until` date NOT NULL,
	`targets` json NOT NULL,
	`pauses` json NOT NULL,
	CONSTRAINT `service_level_past_service_level_id_held_until_pk` PRIMARY KEY(`service_level_id`,`held_until`)
);
--> statement-breakpoint
ALTER TABLE `service_level` ADD `holds_from` date;--> statement-breakpoint
ALTER TABLE `service_level_past` ADD CONSTRAINT `service_level_past_service_level_id_service_level_id_fk` FOREIGN KEY (`service_level_id`) REFERENCES `service_level`(`id`) ON DELETE no action ON UPDATE no action;