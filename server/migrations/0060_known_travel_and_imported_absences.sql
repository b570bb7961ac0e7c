CREATE TABLE `travel_setting` (
	`id` int NOT NULL,
	`rules` json,
	`stamp` varchar(36) NOT NULL,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `travel_setting_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `travel_time` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`from_spot` varchar(40) NOT NULL,
	`to_spot` varchar(40) NOT NULL,
	`minutes` int NOT NULL,
	`import_id` int unsigned,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `travel_time_id` PRIMARY KEY(`id`),
	CONSTRAINT `travel_time_way` UNIQUE(`from_spot`,`to_spot`)
);
--> statement-breakpoint
ALTER TABLE `import_before` MODIFY COLUMN `subject` enum('asset','customer','contact','location','travel time') NOT NULL;--> statement-breakpoint
ALTER TABLE `import_mapping` MODIFY COLUMN `kind` enum('assets','customers','contacts','locations','meters','readings','agreements','absences','travel times') NOT NULL;--> statement-breakpoint
ALTER TABLE `import_run` MODIFY COLUMN `kind` enum('assets','customers','contacts','locations','meters','readings','agreements','absences','travel times') NOT NULL;--> statement-breakpoint
ALTER TABLE `absence` ADD `import_id` int unsigned;--> statement-breakpoint
CREATE INDEX `travel_time_import` ON `travel_time` (`import_id`);--> statement-breakpoint
CREATE INDEX `absence_import` ON `absence` (`import_id`);