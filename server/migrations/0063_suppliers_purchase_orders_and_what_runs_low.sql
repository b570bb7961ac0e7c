CREATE TABLE `part_supplier` (
	`part_id` int unsigned NOT NULL,
	`supplier_id` int unsigned NOT NULL,
	`number` varchar(60) NOT NULL DEFAULT '',
	`unit_price` bigint,
	`pack` bigint NOT NULL,
	`lead_days` int,
	`preferred` boolean NOT NULL DEFAULT false,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `part_supplier_part_id_supplier_id_pk` PRIMARY KEY(`part_id`,`supplier_id`)
);
--> statement-breakpoint
CREATE TABLE `purchase` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`supplier_id` int unsigned NOT NULL,
	`store_id` int unsigned NOT NULL,
	`stage` enum('draft','sent','closed','called off') NOT NULL,
	`note` varchar(300) NOT NULL DEFAULT '',
	`created_by` int unsigned NOT NULL,
	`created_at` datetime(3) NOT NULL,
	`approved_by` int unsigned,
	`approved_at` datetime(3),
	`sent_at` datetime(3),
	`sent_to` varchar(200) NOT NULL DEFAULT '',
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `purchase_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `purchase_asked` (
	`request_key` varchar(60) NOT NULL,
	`request_content` varchar(64) NOT NULL,
	`purchases` json NOT NULL,
	CONSTRAINT `purchase_asked_request_key` PRIMARY KEY(`request_key`)
);
--> statement-breakpoint
CREATE TABLE `purchase_for` (
	`line_id` int unsigned NOT NULL,
	`need_id` int unsigned NOT NULL,
	`thousandths` bigint NOT NULL,
	CONSTRAINT `purchase_for_line_id_need_id_pk` PRIMARY KEY(`line_id`,`need_id`)
);
--> statement-breakpoint
CREATE TABLE `purchase_line` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`purchase_id` int unsigned NOT NULL,
	`part_id` int unsigned NOT NULL,
	`thousandths` bigint NOT NULL,
	`received` bigint NOT NULL DEFAULT 0,
	`refused` bigint NOT NULL DEFAULT 0,
	`to_come` bigint NOT NULL,
	`unit_price` bigint,
	`promised_on` date,
	`short` varchar(200),
	`variance` bigint NOT NULL DEFAULT 0,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `purchase_line_id` PRIMARY KEY(`id`),
	CONSTRAINT `purchase_line_part` UNIQUE(`purchase_id`,`part_id`)
);
--> statement-breakpoint
CREATE TABLE `reorder_proposal` (
	`store_id` int unsigned NOT NULL,
	`part_id` int unsigned NOT NULL,
	`propose` bigint NOT NULL,
	`below_on` date NOT NULL,
	`from_day` date NOT NULL,
	`curve` json NOT NULL,
	`minimum` bigint NOT NULL,
	`maximum` bigint NOT NULL,
	`needed` bigint NOT NULL,
	`coming` bigint NOT NULL,
	`lead_days` int NOT NULL,
	`made_at` datetime(3) NOT NULL,
	CONSTRAINT `reorder_proposal_store_id_part_id_pk` PRIMARY KEY(`store_id`,`part_id`)
);
--> statement-breakpoint
CREATE TABLE `supplier` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`name` varchar(120) NOT NULL,
	`email` varchar(200) NOT NULL DEFAULT '',
	`phone` varchar(60) NOT NULL DEFAULT '',
	`lead_days` int NOT NULL,
	`note` varchar(300) NOT NULL DEFAULT '',
	`retired` boolean NOT NULL DEFAULT false,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `supplier_id` PRIMARY KEY(`id`),
	CONSTRAINT `supplier_name` UNIQUE(`name`)
);
--> statement-breakpoint
ALTER TABLE `stock_move` ADD `purchase_line_id` int unsigned;--> statement-breakpoint
ALTER TABLE `store_act` ADD `purchase_id` int unsigned;--> statement-breakpoint
ALTER TABLE `store_act` ADD `served` json;--> statement-breakpoint
ALTER TABLE `part_supplier` ADD CONSTRAINT `part_supplier_part_id_part_id_fk` FOREIGN KEY (`part_id`) REFERENCES `part`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `part_supplier` ADD CONSTRAINT `part_supplier_supplier_id_supplier_id_fk` FOREIGN KEY (`supplier_id`) REFERENCES `supplier`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `purchase` ADD CONSTRAINT `purchase_supplier_id_supplier_id_fk` FOREIGN KEY (`supplier_id`) REFERENCES `supplier`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `purchase` ADD CONSTRAINT `purchase_store_id_store_id_fk` FOREIGN KEY (`store_id`) REFERENCES `store`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `purchase_for` ADD CONSTRAINT `purchase_for_line_id_purchase_line_id_fk` FOREIGN KEY (`line_id`) REFERENCES `purchase_line`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `purchase_for` ADD CONSTRAINT `purchase_for_need_id_part_need_id_fk` FOREIGN KEY (`need_id`) REFERENCES `part_need`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `purchase_line` ADD CONSTRAINT `purchase_line_purchase_id_purchase_id_fk` FOREIGN KEY (`purchase_id`) REFERENCES `purchase`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `purchase_line` ADD CONSTRAINT `purchase_line_part_id_part_id_fk` FOREIGN KEY (`part_id`) REFERENCES `part`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `reorder_proposal` ADD CONSTRAINT `reorder_proposal_store_id_store_id_fk` FOREIGN KEY (`store_id`) REFERENCES `store`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `reorder_proposal` ADD CONSTRAINT `reorder_proposal_part_id_part_id_fk` FOREIGN KEY (`part_id`) REFERENCES `part`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `part_supplier_supplier` ON `part_supplier` (`supplier_id`,`part_id`);--> statement-breakpoint
CREATE INDEX `purchase_stage` ON `purchase` (`stage`,`id`);--> statement-breakpoint
CREATE INDEX `purchase_supplier` ON `purchase` (`supplier_id`,`stage`);--> statement-breakpoint
CREATE INDEX `purchase_store` ON `purchase` (`store_id`,`stage`);--> statement-breakpoint
CREATE INDEX `purchase_for_need` ON `purchase_for` (`need_id`);--> statement-breakpoint
CREATE INDEX `purchase_line_coming` ON `purchase_line` (`part_id`,`to_come`);--> statement-breakpoint
CREATE INDEX `reorder_proposal_day` ON `reorder_proposal` (`below_on`,`part_id`);--> statement-breakpoint
CREATE INDEX `stock_move_purchase` ON `stock_move` (`purchase_line_id`);--> statement-breakpoint
CREATE INDEX `store_act_purchase` ON `store_act` (`purchase_id`);