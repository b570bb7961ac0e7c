ALTER TABLE `job_plan` ADD `crew` int DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE `job_plan` ADD `safety_note` varchar(500) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `job_plan` ADD `parts` json;--> statement-breakpoint
ALTER TABLE `order_line` ADD `plan` json;