CREATE TABLE `move_serial` (
	`move_id` int unsigned NOT NULL,
	`serial` varchar(80) NOT NULL,
	CONSTRAINT `move_serial_move_id_serial_pk` PRIMARY KEY(`move_id`,`serial`)
);
--> statement-breakpoint
CREATE TABLE `serial_unit` (
	`part_id` int unsigned NOT NULL,
	`serial` varchar(80) NOT NULL,
	`store_id` int unsigned,
	CONSTRAINT `serial_unit_part_id_serial_pk` PRIMARY KEY(`part_id`,`serial`)
);
--> statement-breakpoint
CREATE TABLE `shelf` (
	`store_id` int unsigned NOT NULL,
	`part_id` int unsigned NOT NULL,
	`bin` varchar(40) NOT NULL DEFAULT '',
	`minimum` bigint,
	`maximum` bigint,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `shelf_store_id_part_id_pk` PRIMARY KEY(`store_id`,`part_id`)
);
--> statement-breakpoint
CREATE TABLE `stock` (
	`store_id` int unsigned NOT NULL,
	`part_id` int unsigned NOT NULL,
	`on_hand` bigint NOT NULL,
	`reserved` bigint NOT NULL,
	`value` bigint NOT NULL,
	`average` bigint,
	`last_price` bigint,
	CONSTRAINT `stock_store_id_part_id_pk` PRIMARY KEY(`store_id`,`part_id`)
);
--> statement-breakpoint
CREATE TABLE `stock_move` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`act_id` int unsigned NOT NULL,
	`store_id` int unsigned NOT NULL,
	`part_id` int unsigned NOT NULL,
	`kind` enum('receipt','issue','return','transfer','count','scrap','to supplier','variance') NOT NULL,
	`thousandths` bigint NOT NULL,
	`money` bigint NOT NULL,
	`unit_price` bigint,
	`used_part_id` int unsigned,
	CONSTRAINT `stock_move_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `store` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`name` varchar(80) NOT NULL,
	`kind` enum('depot','van','quarantine') NOT NULL,
	`depot_id` int unsigned NOT NULL,
	`person_id` int unsigned,
	`retired` boolean NOT NULL DEFAULT false,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `store_id` PRIMARY KEY(`id`),
	CONSTRAINT `store_name` UNIQUE(`name`),
	CONSTRAINT `store_person` UNIQUE(`person_id`)
);
--> statement-breakpoint
CREATE TABLE `store_act` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`kind` enum('receipt','transfer','issue','return','scrap','count','to supplier') NOT NULL,
	`person_id` int unsigned,
	`order_id` int unsigned,
	`text` varchar(200) NOT NULL DEFAULT '',
	`at` datetime(3) NOT NULL,
	`request_key` varchar(60),
	`request_content` varchar(64),
	CONSTRAINT `store_act_id` PRIMARY KEY(`id`),
	CONSTRAINT `store_act_request` UNIQUE(`request_key`)
);
--> statement-breakpoint
ALTER TABLE `move_serial` ADD CONSTRAINT `move_serial_move_id_stock_move_id_fk` FOREIGN KEY (`move_id`) REFERENCES `stock_move`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `serial_unit` ADD CONSTRAINT `serial_unit_part_id_part_id_fk` FOREIGN KEY (`part_id`) REFERENCES `part`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `serial_unit` ADD CONSTRAINT `serial_unit_store_id_store_id_fk` FOREIGN KEY (`store_id`) REFERENCES `store`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `shelf` ADD CONSTRAINT `shelf_store_id_store_id_fk` FOREIGN KEY (`store_id`) REFERENCES `store`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `shelf` ADD CONSTRAINT `shelf_part_id_part_id_fk` FOREIGN KEY (`part_id`) REFERENCES `part`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `stock` ADD CONSTRAINT `stock_store_id_store_id_fk` FOREIGN KEY (`store_id`) REFERENCES `store`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `stock` ADD CONSTRAINT `stock_part_id_part_id_fk` FOREIGN KEY (`part_id`) REFERENCES `part`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `stock_move` ADD CONSTRAINT `stock_move_act_id_store_act_id_fk` FOREIGN KEY (`act_id`) REFERENCES `store_act`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `stock_move` ADD CONSTRAINT `stock_move_store_id_store_id_fk` FOREIGN KEY (`store_id`) REFERENCES `store`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `stock_move` ADD CONSTRAINT `stock_move_part_id_part_id_fk` FOREIGN KEY (`part_id`) REFERENCES `part`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `store` ADD CONSTRAINT `store_depot_id_depot_id_fk` FOREIGN KEY (`depot_id`) REFERENCES `depot`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `store` ADD CONSTRAINT `store_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `move_serial_serial` ON `move_serial` (`serial`);--> statement-breakpoint
CREATE INDEX `serial_unit_store` ON `serial_unit` (`store_id`,`part_id`);--> statement-breakpoint
CREATE INDEX `shelf_part` ON `shelf` (`part_id`);--> statement-breakpoint
CREATE INDEX `stock_part` ON `stock` (`part_id`,`store_id`,`on_hand`);--> statement-breakpoint
CREATE INDEX `stock_move_shelf` ON `stock_move` (`store_id`,`part_id`,`id`);--> statement-breakpoint
CREATE INDEX `stock_move_part` ON `stock_move` (`part_id`,`id`);--> statement-breakpoint
CREATE INDEX `stock_move_used` ON `stock_move` (`used_part_id`);--> statement-breakpoint
CREATE INDEX `store_act_order` ON `store_act` (`order_id`);