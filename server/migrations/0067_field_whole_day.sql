CREATE TABLE `order_payment` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`order_id` int unsigned NOT NULL,
	`way` enum('card','invoice') NOT NULL,
	`state` enum('asked','paid','declined','agreed') NOT NULL,
	`amount` bigint,
	`currency` varchar(3),
	`receipt` varchar(200) NOT NULL,
	`person_id` int unsigned NOT NULL,
	`at` datetime(3) NOT NULL,
	`request_key` varchar(60) NOT NULL,
	`request_content` varchar(64) NOT NULL,
	CONSTRAINT `order_payment_id` PRIMARY KEY(`id`),
	CONSTRAINT `order_payment_request` UNIQUE(`request_key`)
);
--> statement-breakpoint
CREATE TABLE `van_arrival` (
	`act_id` int unsigned NOT NULL,
	`store_id` int unsigned NOT NULL,
	`at` datetime(3) NOT NULL,
	`received_at` datetime(3),
	CONSTRAINT `van_arrival_store_id_act_id_pk` PRIMARY KEY(`store_id`,`act_id`)
);
--> statement-breakpoint
CREATE TABLE `van_ask` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`store_id` int unsigned NOT NULL,
	`person_id` int unsigned NOT NULL,
	`part_id` int unsigned NOT NULL,
	`thousandths` bigint NOT NULL,
	`text` varchar(200) NOT NULL,
	`at` datetime(3) NOT NULL,
	`state` enum('asked','sent','declined') NOT NULL,
	`answer` varchar(200) NOT NULL DEFAULT '',
	`answered_at` datetime(3),
	`request_key` varchar(60) NOT NULL,
	CONSTRAINT `van_ask_id` PRIMARY KEY(`id`),
	CONSTRAINT `van_ask_request` UNIQUE(`request_key`)
);
--> statement-breakpoint
CREATE TABLE `push_phone` (
	`id` varchar(64) NOT NULL,
	`person_id` int unsigned NOT NULL,
	`endpoint` text NOT NULL,
	`p256dh` varchar(120) NOT NULL,
	`auth` varchar(60) NOT NULL,
	`at` datetime(3) NOT NULL,
	CONSTRAINT `push_phone_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `position_consent` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`person_id` int unsigned NOT NULL,
	`allowed` boolean NOT NULL,
	`at` datetime(3) NOT NULL,
	`recorded_at` datetime(3) NOT NULL,
	CONSTRAINT `position_consent_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `said_position` (
	`deed` varchar(60) NOT NULL,
	`person_id` int unsigned NOT NULL,
	`order_id` int unsigned,
	`at` datetime(3) NOT NULL,
	`latitude` double NOT NULL,
	`longitude` double NOT NULL,
	`accuracy_m` int NOT NULL,
	CONSTRAINT `said_position_deed` PRIMARY KEY(`deed`)
);
--> statement-breakpoint
ALTER TABLE `person` ADD `shows_price` boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `field_photo` ADD `signs_id` int unsigned;--> statement-breakpoint
ALTER TABLE `van_arrival` ADD CONSTRAINT `van_arrival_act_id_store_act_id_fk` FOREIGN KEY (`act_id`) REFERENCES `store_act`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `van_arrival` ADD CONSTRAINT `van_arrival_store_id_store_id_fk` FOREIGN KEY (`store_id`) REFERENCES `store`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `van_ask` ADD CONSTRAINT `van_ask_store_id_store_id_fk` FOREIGN KEY (`store_id`) REFERENCES `store`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `van_ask` ADD CONSTRAINT `van_ask_part_id_part_id_fk` FOREIGN KEY (`part_id`) REFERENCES `part`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `position_consent` ADD CONSTRAINT `position_consent_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `said_position` ADD CONSTRAINT `said_position_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `order_payment_order` ON `order_payment` (`order_id`);--> statement-breakpoint
CREATE INDEX `van_arrival_open` ON `van_arrival` (`store_id`,`received_at`);--> statement-breakpoint
CREATE INDEX `van_ask_state` ON `van_ask` (`state`,`id`);--> statement-breakpoint
CREATE INDEX `van_ask_person` ON `van_ask` (`person_id`,`at`);--> statement-breakpoint
CREATE INDEX `push_phone_person` ON `push_phone` (`person_id`);--> statement-breakpoint
CREATE INDEX `position_consent_person` ON `position_consent` (`person_id`,`id`);--> statement-breakpoint
CREATE INDEX `said_position_person` ON `said_position` (`person_id`,`at`);--> statement-breakpoint
CREATE INDEX `field_photo_signs` ON `field_photo` (`signs_id`);