CREATE TABLE `other_cost` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`order_id` int unsigned NOT NULL,
	`order_line_id` int unsigned NOT NULL,
	`day` date NOT NULL,
	`text` varchar(200) NOT NULL,
	`cost` bigint NOT NULL,
	`price` bigint NOT NULL,
	`tax_id` int unsigned,
	`ours_because` varchar(200),
	`receipt_id` int unsigned,
	`person_id` int unsigned,
	`at` datetime(3) NOT NULL,
	`request_key` varchar(60),
	`request_content` varchar(64),
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `other_cost_id` PRIMARY KEY(`id`),
	CONSTRAINT `other_cost_request` UNIQUE(`request_key`)
);
--> statement-breakpoint
CREATE TABLE `tax` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`name` varchar(60) NOT NULL,
	`category` enum('S','Z','E','AE') NOT NULL,
	`hundredths` int NOT NULL,
	`is_standard` boolean,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `tax_id` PRIMARY KEY(`id`),
	CONSTRAINT `tax_name` UNIQUE(`name`),
	CONSTRAINT `tax_standard` UNIQUE(`is_standard`)
);
--> statement-breakpoint
CREATE TABLE `part` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`number` varchar(60) NOT NULL,
	`name` varchar(120) NOT NULL,
	`unit` varchar(20) NOT NULL,
	`list_price` bigint NOT NULL,
	`cost` bigint NOT NULL,
	`consumable` boolean NOT NULL DEFAULT false,
	`serial_tracked` boolean NOT NULL DEFAULT false,
	`tax_id` int unsigned,
	`retired` boolean NOT NULL DEFAULT false,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `part_id` PRIMARY KEY(`id`),
	CONSTRAINT `part_number` UNIQUE(`number`)
);
--> statement-breakpoint
CREATE TABLE `used_part` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`order_id` int unsigned NOT NULL,
	`order_line_id` int unsigned NOT NULL,
	`part_id` int unsigned NOT NULL,
	`thousandths` int NOT NULL,
	`serial` varchar(80),
	`unit_price` bigint NOT NULL,
	`unit_cost` bigint NOT NULL,
	`person_id` int unsigned,
	`at` datetime(3) NOT NULL,
	`request_key` varchar(60),
	`request_content` varchar(64),
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `used_part_id` PRIMARY KEY(`id`),
	CONSTRAINT `used_part_serial` UNIQUE(`part_id`,`serial`),
	CONSTRAINT `used_part_request` UNIQUE(`request_key`)
);
--> statement-breakpoint
ALTER TABLE `other_cost` ADD CONSTRAINT `other_cost_order_line_id_order_line_id_fk` FOREIGN KEY (`order_line_id`) REFERENCES `order_line`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `other_cost` ADD CONSTRAINT `other_cost_tax_id_tax_id_fk` FOREIGN KEY (`tax_id`) REFERENCES `tax`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `part` ADD CONSTRAINT `part_tax_id_tax_id_fk` FOREIGN KEY (`tax_id`) REFERENCES `tax`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `used_part` ADD CONSTRAINT `used_part_order_line_id_order_line_id_fk` FOREIGN KEY (`order_line_id`) REFERENCES `order_line`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `used_part` ADD CONSTRAINT `used_part_part_id_part_id_fk` FOREIGN KEY (`part_id`) REFERENCES `part`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `other_cost_order` ON `other_cost` (`order_id`);--> statement-breakpoint
CREATE INDEX `part_name` ON `part` (`name`,`id`);--> statement-breakpoint
CREATE INDEX `used_part_order` ON `used_part` (`order_id`);