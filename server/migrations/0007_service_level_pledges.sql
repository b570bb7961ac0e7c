ALTER TABLE `service_level` ADD `pledge` json;--> statement-breakpoint
ALTER TABLE `service_level_past` ADD `pledge` json;--> statement-breakpoint
ALTER TABLE `clock` ADD `warn_percent` int DEFAULT 25 NOT NULL;