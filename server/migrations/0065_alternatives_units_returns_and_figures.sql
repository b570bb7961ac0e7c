CREATE TABLE `part_alternative` (
	`part_id` int unsigned NOT NULL,
	`other_id` int unsigned NOT NULL,
	CONSTRAINT `part_alternative_part_id_other_id_pk` PRIMARY KEY(`part_id`,`other_id`)
);
--> statement-breakpoint
CREATE TABLE `dead_stock` (
	`store_id` int unsigned NOT NULL,
	`part_id` int unsigned NOT NULL,
	`on_hand` bigint NOT NULL,
	`value` bigint NOT NULL,
	`last_moved_at` datetime(3),
	CONSTRAINT `dead_stock_store_id_part_id_pk` PRIMARY KEY(`store_id`,`part_id`)
);
--> statement-breakpoint
CREATE TABLE `store_figure` (
	`store_id` int unsigned NOT NULL,
	`taken_worth` bigint NOT NULL,
	`worth_before` bigint NOT NULL,
	`value` bigint NOT NULL,
	`parts` int NOT NULL,
	`dead_value` bigint NOT NULL,
	`dead_parts` int NOT NULL,
	`made_at` datetime(3) NOT NULL,
	CONSTRAINT `store_figure_store_id` PRIMARY KEY(`store_id`)
);
--> statement-breakpoint
CREATE TABLE `supplier_return` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`supplier_id` int unsigned NOT NULL,
	`store_id` int unsigned NOT NULL,
	`act_id` int unsigned NOT NULL,
	`reason` enum('not needed','wrong or broken','core','warranty') NOT NULL,
	`reference` varchar(60) NOT NULL DEFAULT '',
	`stage` enum('sent','credited','replaced','refused') NOT NULL,
	`worth` bigint NOT NULL,
	`credit` bigint,
	`variance` bigint NOT NULL DEFAULT 0,
	`answer` varchar(200) NOT NULL DEFAULT '',
	`answered_by` int unsigned,
	`answered_at` datetime(3),
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `supplier_return_id` PRIMARY KEY(`id`),
	CONSTRAINT `supplier_return_act` UNIQUE(`act_id`)
);
--> statement-breakpoint
ALTER TABLE `find_posting` MODIFY COLUMN `kind` enum('asset','customer','location','agreement','order','offer','part') NOT NULL;--> statement-breakpoint
ALTER TABLE `part` ADD `warranty_months` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `used_part` ADD `asset_id` int unsigned;--> statement-breakpoint
ALTER TABLE `part_alternative` ADD CONSTRAINT `part_alternative_part_id_part_id_fk` FOREIGN KEY (`part_id`) REFERENCES `part`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `part_alternative` ADD CONSTRAINT `part_alternative_other_id_part_id_fk` FOREIGN KEY (`other_id`) REFERENCES `part`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `dead_stock` ADD CONSTRAINT `dead_stock_store_id_store_id_fk` FOREIGN KEY (`store_id`) REFERENCES `store`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `dead_stock` ADD CONSTRAINT `dead_stock_part_id_part_id_fk` FOREIGN KEY (`part_id`) REFERENCES `part`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `store_figure` ADD CONSTRAINT `store_figure_store_id_store_id_fk` FOREIGN KEY (`store_id`) REFERENCES `store`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `supplier_return` ADD CONSTRAINT `supplier_return_supplier_id_supplier_id_fk` FOREIGN KEY (`supplier_id`) REFERENCES `supplier`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `supplier_return` ADD CONSTRAINT `supplier_return_store_id_store_id_fk` FOREIGN KEY (`store_id`) REFERENCES `store`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `supplier_return` ADD CONSTRAINT `supplier_return_act_id_store_act_id_fk` FOREIGN KEY (`act_id`) REFERENCES `store_act`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `part_alternative_other` ON `part_alternative` (`other_id`);--> statement-breakpoint
CREATE INDEX `dead_stock_value` ON `dead_stock` (`value`,`store_id`,`part_id`);--> statement-breakpoint
CREATE INDEX `supplier_return_stage` ON `supplier_return` (`stage`,`id`);--> statement-breakpoint
CREATE INDEX `supplier_return_supplier` ON `supplier_return` (`supplier_id`,`id`);--> statement-breakpoint
ALTER TABLE `used_part` ADD CONSTRAINT `used_part_asset_id_asset_id_fk` FOREIGN KEY (`asset_id`) REFERENCES `asset`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `used_part_line` ON `used_part` (`order_line_id`,`serial`);