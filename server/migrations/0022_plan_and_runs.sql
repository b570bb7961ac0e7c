CREATE TABLE `plan_state` (
	`id` int NOT NULL,
	`as_of` date,
	`horizon` date,
	`change_id` bigint unsigned NOT NULL,
	`seen` json NOT NULL,
	`fence` int NOT NULL,
	`busy_until` datetime(3),
	`planned_at` datetime(3),
	CONSTRAINT `plan_state_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `planned_visit` (
	`schedule_id` int unsigned NOT NULL,
	`nominal` date NOT NULL,
	`part` int NOT NULL,
	`planned` date NOT NULL,
	`due` date NOT NULL,
	`raise_on` date NOT NULL,
	`written` int NOT NULL,
	`job_plan_id` int unsigned,
	`minutes` int,
	`crew` int,
	`technician_id` int unsigned,
	`changed` enum('moved','added'),
	`closed` enum('day','window'),
	`absorbed_by` varchar(40),
	CONSTRAINT `planned_visit_schedule_id_nominal_part_pk` PRIMARY KEY(`schedule_id`,`nominal`,`part`)
);
--> statement-breakpoint
CREATE TABLE `schedule_outlook` (
	`schedule_id` int unsigned NOT NULL,
	`agreement_id` int unsigned NOT NULL,
	`customer_id` int unsigned NOT NULL,
	`kind` enum('needs action','waits'),
	`code` varchar(40),
	`reason` varchar(500),
	`since` datetime(3),
	`next_raise` date,
	`next_due` date,
	`digest` varchar(40),
	CONSTRAINT `schedule_outlook_schedule_id` PRIMARY KEY(`schedule_id`)
);
--> statement-breakpoint
CREATE TABLE `upkeep_run` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`at` datetime(3) NOT NULL,
	`person_id` int unsigned,
	`today` date NOT NULL,
	`run_to` date NOT NULL,
	`scope` json NOT NULL,
	`only` json,
	`seen` int,
	`state` enum('raising','done') NOT NULL,
	`wanted` int NOT NULL DEFAULT 0,
	`raised` int NOT NULL DEFAULT 0,
	`left` json NOT NULL,
	`left_count` int NOT NULL DEFAULT 0,
	`fence` int NOT NULL DEFAULT 0,
	`lease_until` datetime(3),
	`ended_at` datetime(3),
	CONSTRAINT `upkeep_run_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `upkeep_setting` (
	`exception` varchar(40) NOT NULL,
	`level` enum('stops','asks','tells') NOT NULL,
	CONSTRAINT `upkeep_setting_exception` PRIMARY KEY(`exception`)
);
--> statement-breakpoint
ALTER TABLE `visit` MODIFY COLUMN `state` enum('held','accepted','raised','declined','absorbed','called off') NOT NULL;--> statement-breakpoint
ALTER TABLE `change_notice` ADD `subjects` json;--> statement-breakpoint
ALTER TABLE `visit` ADD `hold_until` date;--> statement-breakpoint
ALTER TABLE `visit` ADD `decided_by` int unsigned;--> statement-breakpoint
ALTER TABLE `visit` ADD `run_id` int unsigned;--> statement-breakpoint
CREATE INDEX `planned_visit_raise` ON `planned_visit` (`raise_on`);--> statement-breakpoint
CREATE INDEX `planned_visit_planned` ON `planned_visit` (`planned`,`schedule_id`);--> statement-breakpoint
CREATE INDEX `schedule_outlook_kind` ON `schedule_outlook` (`kind`,`since`);--> statement-breakpoint
CREATE INDEX `schedule_outlook_next` ON `schedule_outlook` (`next_raise`);--> statement-breakpoint
CREATE INDEX `upkeep_run_state` ON `upkeep_run` (`state`,`lease_until`);--> statement-breakpoint
CREATE INDEX `upkeep_run_at` ON `upkeep_run` (`at`);--> statement-breakpoint
CREATE INDEX `visit_run` ON `visit` (`run_id`);