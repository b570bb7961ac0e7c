CREATE TABLE `part_need` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`order_id` int unsigned NOT NULL,
	`order_line_id` int unsigned NOT NULL,
	`part_id` int unsigned NOT NULL,
	`wanted` bigint NOT NULL,
	`used` bigint NOT NULL DEFAULT 0,
	`held` bigint NOT NULL DEFAULT 0,
	`open` bigint NOT NULL,
	`anyway` varchar(200),
	`anyway_by` int unsigned,
	`asked_at` datetime(3) NOT NULL,
	`over` boolean NOT NULL DEFAULT false,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `part_need_id` PRIMARY KEY(`id`),
	CONSTRAINT `part_need_line` UNIQUE(`order_line_id`,`part_id`)
);
--> statement-breakpoint
CREATE TABLE `stock_hold` (
	`need_id` int unsigned NOT NULL,
	`store_id` int unsigned NOT NULL,
	`part_id` int unsigned NOT NULL,
	`thousandths` bigint NOT NULL,
	CONSTRAINT `stock_hold_need_id_store_id_pk` PRIMARY KEY(`need_id`,`store_id`)
);
--> statement-breakpoint
CREATE TABLE `store_setting` (
	`id` int NOT NULL,
	`plan_waiting` boolean NOT NULL,
	`hold_days` int NOT NULL,
	`review_days` int NOT NULL,
	`approval_limit` bigint,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `store_setting_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
ALTER TABLE `used_part` ADD `store_id` int unsigned;--> statement-breakpoint
ALTER TABLE `part_need` ADD CONSTRAINT `part_need_order_line_id_order_line_id_fk` FOREIGN KEY (`order_line_id`) REFERENCES `order_line`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `part_need` ADD CONSTRAINT `part_need_part_id_part_id_fk` FOREIGN KEY (`part_id`) REFERENCES `part`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `stock_hold` ADD CONSTRAINT `stock_hold_need_id_part_need_id_fk` FOREIGN KEY (`need_id`) REFERENCES `part_need`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `stock_hold` ADD CONSTRAINT `stock_hold_store_id_store_id_fk` FOREIGN KEY (`store_id`) REFERENCES `store`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `part_need_order` ON `part_need` (`order_id`);--> statement-breakpoint
CREATE INDEX `part_need_open` ON `part_need` (`part_id`,`open`);--> statement-breakpoint
CREATE INDEX `stock_hold_shelf` ON `stock_hold` (`store_id`,`part_id`);