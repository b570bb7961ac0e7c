CREATE TABLE `job_plan_includes` (
	`larger_id` int unsigned NOT NULL,
	`smaller_id` int unsigned NOT NULL,
	CONSTRAINT `job_plan_includes_larger_id_smaller_id_pk` PRIMARY KEY(`larger_id`,`smaller_id`)
);
--> statement-breakpoint
CREATE TABLE `visit_change` (
	`schedule_id` int unsigned NOT NULL,
	`nominal` date NOT NULL,
	`part` int NOT NULL DEFAULT 1,
	`added` boolean NOT NULL DEFAULT false,
	`moved_to` date,
	`agreed` boolean NOT NULL DEFAULT false,
	`skipped` varchar(500),
	`minutes` int,
	`crew` int,
	`technician_id` int unsigned,
	`at` datetime(3) NOT NULL,
	`person_id` int unsigned,
	CONSTRAINT `visit_change_schedule_id_nominal_part_pk` PRIMARY KEY(`schedule_id`,`nominal`,`part`)
);
--> statement-breakpoint
ALTER TABLE `schedule` ADD `cadence` json;--> statement-breakpoint
UPDATE `schedule` SET `cadence` = JSON_OBJECT('kind', 'rule', 'rule', `rule`);--> statement-breakpoint
ALTER TABLE `schedule` MODIFY `cadence` json NOT NULL;--> statement-breakpoint
ALTER TABLE `schedule` ADD `turns` json;--> statement-breakpoint
UPDATE `schedule` SET `turns` = '[]';--> statement-breakpoint
ALTER TABLE `schedule` MODIFY `turns` json NOT NULL;--> statement-breakpoint
ALTER TABLE `schedule` ADD `crew` int DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE `schedule` ADD `technician_id` int unsigned;--> statement-breakpoint
ALTER TABLE `schedule` ADD `hours` json;--> statement-breakpoint
ALTER TABLE `schedule` ADD `absorb_days` int;--> statement-breakpoint
ALTER TABLE `schedule` ADD `version` int DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE `visit` ADD `job_plan_id` int unsigned;--> statement-breakpoint
ALTER TABLE `visit` ADD `planned` date;--> statement-breakpoint
UPDATE `visit` JOIN `schedule` ON `schedule`.`id` = `visit`.`schedule_id` SET `visit`.`job_plan_id` = `schedule`.`job_plan_id`, `visit`.`planned` = `visit`.`due`;--> statement-breakpoint
ALTER TABLE `visit` MODIFY `job_plan_id` int unsigned NOT NULL, MODIFY `planned` date NOT NULL;--> statement-breakpoint
ALTER TABLE `visit` ADD `absorbed_by` int unsigned;--> statement-breakpoint
ALTER TABLE `job_plan_includes` ADD CONSTRAINT `job_plan_includes_larger_id_job_plan_id_fk` FOREIGN KEY (`larger_id`) REFERENCES `job_plan`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `job_plan_includes` ADD CONSTRAINT `job_plan_includes_smaller_id_job_plan_id_fk` FOREIGN KEY (`smaller_id`) REFERENCES `job_plan`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `visit_change` ADD CONSTRAINT `visit_change_schedule_id_schedule_id_fk` FOREIGN KEY (`schedule_id`) REFERENCES `schedule`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `visit_absorbed` ON `visit` (`absorbed_by`);