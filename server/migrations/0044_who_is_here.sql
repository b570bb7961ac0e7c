CREATE TABLE `order_presence` (
	`order_id` int unsigned NOT NULL,
	`person_id` int unsigned NOT NULL,
	`seen_at` datetime(3) NOT NULL,
	CONSTRAINT `order_presence_order_id_person_id_pk` PRIMARY KEY(`order_id`,`person_id`)
);
--> statement-breakpoint
ALTER TABLE `order_presence` ADD CONSTRAINT `order_presence_order_id_work_order_id_fk` FOREIGN KEY (`order_id`) REFERENCES `work_order`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `order_presence` ADD CONSTRAINT `order_presence_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;