CREATE TABLE `field_act` (
	`id` varchar(60) NOT NULL,
	`deed` varchar(60) NOT NULL,
	`taken_deed` varchar(60),
	`person_id` int unsigned NOT NULL,
	`kind` varchar(20) NOT NULL,
	`order_id` int unsigned,
	`at` datetime(3) NOT NULL,
	`phone_at` datetime(3) NOT NULL,
	`received_at` datetime(3) NOT NULL,
	`doubtful` boolean NOT NULL,
	`content` varchar(64) NOT NULL,
	`outcome` enum('taken','refused') NOT NULL,
	`refusals` json NOT NULL,
	CONSTRAINT `field_act_id` PRIMARY KEY(`id`),
	CONSTRAINT `field_act_deed` UNIQUE(`taken_deed`)
);
--> statement-breakpoint
CREATE TABLE `field_photo` (
	`id` varchar(60) NOT NULL,
	`person_id` int unsigned NOT NULL,
	`sha256` varchar(64) NOT NULL,
	`at` datetime(3) NOT NULL,
	CONSTRAINT `field_photo_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `appointment_answer` (
	`appointment_id` int unsigned NOT NULL,
	`person_id` int unsigned NOT NULL,
	`version` int NOT NULL,
	`accepted` boolean NOT NULL,
	`text` varchar(200) NOT NULL,
	`at` datetime(3) NOT NULL,
	CONSTRAINT `appointment_answer_appointment_id_person_id_pk` PRIMARY KEY(`appointment_id`,`person_id`)
);
--> statement-breakpoint
ALTER TABLE `order_event` ADD `on_site` boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `appointment` ADD `late_minutes` int;--> statement-breakpoint
ALTER TABLE `appointment` ADD `late_at` datetime(3);--> statement-breakpoint
ALTER TABLE `appointment` ADD `late_text` varchar(200) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `field_act` ADD CONSTRAINT `field_act_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `field_photo` ADD CONSTRAINT `field_photo_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `field_photo` ADD CONSTRAINT `field_photo_sha256_file_content_sha256_fk` FOREIGN KEY (`sha256`) REFERENCES `file_content`(`sha256`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `appointment_answer` ADD CONSTRAINT `appointment_answer_appointment_id_appointment_id_fk` FOREIGN KEY (`appointment_id`) REFERENCES `appointment`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `appointment_answer` ADD CONSTRAINT `appointment_answer_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `field_act_person` ON `field_act` (`person_id`,`received_at`);--> statement-breakpoint
CREATE INDEX `field_act_order` ON `field_act` (`order_id`);