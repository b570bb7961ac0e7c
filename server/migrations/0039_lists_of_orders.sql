CREATE TABLE `order_view` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`person_id` int unsigned NOT NULL,
	`name` varchar(80) NOT NULL,
	`query` varchar(500) NOT NULL,
	`shared` boolean NOT NULL,
	CONSTRAINT `order_view_id` PRIMARY KEY(`id`),
	CONSTRAINT `order_view_name` UNIQUE(`person_id`,`name`)
);
--> statement-breakpoint
ALTER TABLE `work_order` ADD `waiting_for` enum('no access','customer asked for a later date','waiting for parts');--> statement-breakpoint
ALTER TABLE `work_order` ADD `depot_id` int unsigned;--> statement-breakpoint
ALTER TABLE `work_order` ADD `next_due` date;--> statement-breakpoint
ALTER TABLE `order_view` ADD CONSTRAINT `order_view_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `work_order_due` ON `work_order` (`stage`,`next_due`,`id`);--> statement-breakpoint
CREATE INDEX `work_order_depot` ON `work_order` (`depot_id`,`stage`,`id`);