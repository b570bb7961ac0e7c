CREATE TABLE `absence` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`person_id` int unsigned NOT NULL,
	`kind` enum('leave','sick','training') NOT NULL,
	`state` enum('asked','agreed','refused') NOT NULL,
	`from_at` datetime(3) NOT NULL,
	`to_at` datetime(3) NOT NULL,
	`text` varchar(500) NOT NULL DEFAULT '',
	`asked_by` int unsigned NOT NULL,
	`decided_by` int unsigned,
	`decided_text` varchar(500) NOT NULL DEFAULT '',
	`request_key` varchar(60),
	`request_content` varchar(64),
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `absence_id` PRIMARY KEY(`id`),
	CONSTRAINT `absence_request` UNIQUE(`request_key`)
);
--> statement-breakpoint
CREATE TABLE `appointment` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`location_id` int unsigned,
	`zone` varchar(60) NOT NULL,
	`from_at` datetime(3) NOT NULL,
	`to_at` datetime(3) NOT NULL,
	`told_from` datetime(3),
	`told_to` datetime(3),
	`fixed` boolean NOT NULL DEFAULT false,
	`overlap_reason` varchar(500) NOT NULL DEFAULT '',
	`sent_at` datetime(3),
	`request_key` varchar(60),
	`request_content` varchar(64),
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `appointment_id` PRIMARY KEY(`id`),
	CONSTRAINT `appointment_request` UNIQUE(`request_key`)
);
--> statement-breakpoint
CREATE TABLE `appointment_order` (
	`appointment_id` int unsigned NOT NULL,
	`order_id` int unsigned NOT NULL,
	CONSTRAINT `appointment_order_appointment_id_order_id_pk` PRIMARY KEY(`appointment_id`,`order_id`)
);
--> statement-breakpoint
CREATE TABLE `appointment_person` (
	`appointment_id` int unsigned NOT NULL,
	`person_id` int unsigned NOT NULL,
	`position` int NOT NULL,
	CONSTRAINT `appointment_person_appointment_id_person_id_pk` PRIMARY KEY(`appointment_id`,`person_id`)
);
--> statement-breakpoint
CREATE TABLE `crew` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`name` varchar(120) NOT NULL,
	`from_day` date NOT NULL,
	`to_day` date,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `crew_id` PRIMARY KEY(`id`),
	CONSTRAINT `crew_name` UNIQUE(`name`,`from_day`)
);
--> statement-breakpoint
CREATE TABLE `crew_member` (
	`crew_id` int unsigned NOT NULL,
	`person_id` int unsigned NOT NULL,
	`position` int NOT NULL,
	CONSTRAINT `crew_member_crew_id_person_id_pk` PRIMARY KEY(`crew_id`,`person_id`)
);
--> statement-breakpoint
CREATE TABLE `person_skill` (
	`person_id` int unsigned NOT NULL,
	`skill_id` int unsigned NOT NULL,
	`until` date,
	CONSTRAINT `person_skill_person_id_skill_id_pk` PRIMARY KEY(`person_id`,`skill_id`)
);
--> statement-breakpoint
CREATE TABLE `rota_step` (
	`person_id` int unsigned NOT NULL,
	`step` int NOT NULL,
	`lap` int unsigned NOT NULL,
	`appointment_id` int unsigned NOT NULL,
	CONSTRAINT `rota_step_person_id_step_lap_pk` PRIMARY KEY(`person_id`,`step`,`lap`)
);
--> statement-breakpoint
CREATE TABLE `technician` (
	`person_id` int unsigned NOT NULL,
	`depot_id` int unsigned,
	`starts_from` enum('depot','home') NOT NULL DEFAULT 'depot',
	`home` varchar(300) NOT NULL DEFAULT '',
	`latitude` double,
	`longitude` double,
	`van` varchar(60) NOT NULL DEFAULT '',
	`speaks` json NOT NULL,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `technician_person_id` PRIMARY KEY(`person_id`)
);
--> statement-breakpoint
ALTER TABLE `absence` ADD CONSTRAINT `absence_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `appointment` ADD CONSTRAINT `appointment_location_id_location_id_fk` FOREIGN KEY (`location_id`) REFERENCES `location`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `appointment_order` ADD CONSTRAINT `appointment_order_appointment_id_appointment_id_fk` FOREIGN KEY (`appointment_id`) REFERENCES `appointment`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `appointment_order` ADD CONSTRAINT `appointment_order_order_id_work_order_id_fk` FOREIGN KEY (`order_id`) REFERENCES `work_order`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `appointment_person` ADD CONSTRAINT `appointment_person_appointment_id_appointment_id_fk` FOREIGN KEY (`appointment_id`) REFERENCES `appointment`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `appointment_person` ADD CONSTRAINT `appointment_person_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `crew_member` ADD CONSTRAINT `crew_member_crew_id_crew_id_fk` FOREIGN KEY (`crew_id`) REFERENCES `crew`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `crew_member` ADD CONSTRAINT `crew_member_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `person_skill` ADD CONSTRAINT `person_skill_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `person_skill` ADD CONSTRAINT `person_skill_skill_id_skill_id_fk` FOREIGN KEY (`skill_id`) REFERENCES `skill`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `rota_step` ADD CONSTRAINT `rota_step_appointment_id_appointment_id_fk` FOREIGN KEY (`appointment_id`) REFERENCES `appointment`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `technician` ADD CONSTRAINT `technician_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `technician` ADD CONSTRAINT `technician_depot_id_depot_id_fk` FOREIGN KEY (`depot_id`) REFERENCES `depot`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `absence_person` ON `absence` (`person_id`,`to_at`);--> statement-breakpoint
CREATE INDEX `absence_until` ON `absence` (`to_at`);--> statement-breakpoint
CREATE INDEX `absence_state` ON `absence` (`state`);--> statement-breakpoint
CREATE INDEX `appointment_from` ON `appointment` (`from_at`);--> statement-breakpoint
CREATE INDEX `appointment_to` ON `appointment` (`to_at`);--> statement-breakpoint
CREATE INDEX `appointment_order_order` ON `appointment_order` (`order_id`);--> statement-breakpoint
CREATE INDEX `appointment_person_person` ON `appointment_person` (`person_id`);--> statement-breakpoint
CREATE INDEX `crew_member_person` ON `crew_member` (`person_id`);--> statement-breakpoint
CREATE INDEX `person_skill_until` ON `person_skill` (`until`);--> statement-breakpoint
CREATE INDEX `rota_step_appointment` ON `rota_step` (`appointment_id`);--> statement-breakpoint
CREATE INDEX `rota_step_step` ON `rota_step` (`step`);--> statement-breakpoint
CREATE INDEX `technician_depot` ON `technician` (`depot_id`);