CREATE TABLE `order_course` (
	`order_id` int unsigned NOT NULL,
	`done_on` date NOT NULL,
	`kind` enum('preventive','repair','inspection','installation') NOT NULL,
	`depot_id` int unsigned,
	`technician_id` int unsigned,
	`told_minutes` int,
	`sent_minutes` int,
	`in_time` boolean,
	`at_first_go` boolean NOT NULL,
	CONSTRAINT `order_course_order_id` PRIMARY KEY(`order_id`)
);
--> statement-breakpoint
ALTER TABLE `order_course` ADD CONSTRAINT `order_course_order_id_work_order_id_fk` FOREIGN KEY (`order_id`) REFERENCES `work_order`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `order_course_done` ON `order_course` (`done_on`,`depot_id`,`technician_id`,`kind`,`in_time`,`at_first_go`,`told_minutes`,`sent_minutes`);--> statement-breakpoint
CREATE INDEX `order_course_technician` ON `order_course` (`technician_id`,`done_on`);