CREATE TABLE `table_look` (
	`person_id` int unsigned NOT NULL,
	`name` varchar(40) NOT NULL,
	`look` json NOT NULL,
	CONSTRAINT `table_look_person_id_name_pk` PRIMARY KEY(`person_id`,`name`)
);
--> statement-breakpoint
ALTER TABLE `outlook` ADD `customer_id` int unsigned;--> statement-breakpoint
ALTER TABLE `table_look` ADD CONSTRAINT `table_look_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `outlook_to_raise` ON `outlook` (`to_raise`);--> statement-breakpoint
CREATE INDEX `outlook_held` ON `outlook` (`held`);--> statement-breakpoint
CREATE INDEX `outlook_next` ON `outlook` (`next_raise`,`as_of`);--> statement-breakpoint
CREATE INDEX `outlook_care` ON `outlook` (`care_reason`,`customer_id`);