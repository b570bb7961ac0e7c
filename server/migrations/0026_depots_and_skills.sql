CREATE TABLE `depot` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`name` varchar(120) NOT NULL,
	`latitude` double,
	`longitude` double,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `depot_id` PRIMARY KEY(`id`),
	CONSTRAINT `depot_name` UNIQUE(`name`)
);
--> statement-breakpoint
CREATE TABLE `depot_capacity` (
	`depot_id` int unsigned NOT NULL,
	`skill_id` int unsigned NOT NULL,
	`weekly_minutes` int NOT NULL,
	CONSTRAINT `depot_capacity_depot_id_skill_id_pk` PRIMARY KEY(`depot_id`,`skill_id`)
);
--> statement-breakpoint
CREATE TABLE `skill` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`name` varchar(120) NOT NULL,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `skill_id` PRIMARY KEY(`id`),
	CONSTRAINT `skill_name` UNIQUE(`name`)
);
--> statement-breakpoint
ALTER TABLE `job_plan` ADD `skill_id` int unsigned;--> statement-breakpoint
ALTER TABLE `location` ADD `depot_id` int unsigned;--> statement-breakpoint
ALTER TABLE `schedule_outlook` ADD `depot_id` int unsigned;--> statement-breakpoint
ALTER TABLE `depot_capacity` ADD CONSTRAINT `depot_capacity_depot_id_depot_id_fk` FOREIGN KEY (`depot_id`) REFERENCES `depot`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `depot_capacity` ADD CONSTRAINT `depot_capacity_skill_id_skill_id_fk` FOREIGN KEY (`skill_id`) REFERENCES `skill`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `job_plan` ADD CONSTRAINT `job_plan_skill_id_skill_id_fk` FOREIGN KEY (`skill_id`) REFERENCES `skill`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `location` ADD CONSTRAINT `location_depot_id_depot_id_fk` FOREIGN KEY (`depot_id`) REFERENCES `depot`(`id`) ON DELETE no action ON UPDATE no action;