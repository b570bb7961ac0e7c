CREATE TABLE `count_line` (
	`count_id` int unsigned NOT NULL,
	`part_id` int unsigned NOT NULL,
	`open_at` int unsigned,
	`expected` bigint,
	`counted` bigint,
	`missing` json,
	`found` json,
	`counted_by` int unsigned,
	`counted_at` datetime(3),
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `count_line_count_id_part_id_pk` PRIMARY KEY(`count_id`,`part_id`),
	CONSTRAINT `count_line_open` UNIQUE(`open_at`,`part_id`)
);
--> statement-breakpoint
CREATE TABLE `pick_line` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`act_id` int unsigned NOT NULL,
	`need_id` int unsigned NOT NULL,
	`order_id` int unsigned NOT NULL,
	`part_id` int unsigned NOT NULL,
	`from_id` int unsigned NOT NULL,
	`to_id` int unsigned NOT NULL,
	`thousandths` bigint NOT NULL,
	`back` bigint NOT NULL DEFAULT 0,
	CONSTRAINT `pick_line_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `stock_count` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`store_id` int unsigned NOT NULL,
	`state` enum('open','approved','called off') NOT NULL,
	`what` varchar(120) NOT NULL,
	`started_by` int unsigned NOT NULL,
	`started_at` datetime(3) NOT NULL,
	`ended_by` int unsigned,
	`ended_at` datetime(3),
	`request_key` varchar(60) NOT NULL,
	`request_content` varchar(64) NOT NULL,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `stock_count_id` PRIMARY KEY(`id`),
	CONSTRAINT `stock_count_request` UNIQUE(`request_key`)
);
--> statement-breakpoint
ALTER TABLE `part_need` ADD `not_picked` varchar(200);--> statement-breakpoint
ALTER TABLE `count_line` ADD CONSTRAINT `count_line_count_id_stock_count_id_fk` FOREIGN KEY (`count_id`) REFERENCES `stock_count`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `count_line` ADD CONSTRAINT `count_line_part_id_part_id_fk` FOREIGN KEY (`part_id`) REFERENCES `part`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `pick_line` ADD CONSTRAINT `pick_line_act_id_store_act_id_fk` FOREIGN KEY (`act_id`) REFERENCES `store_act`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `pick_line` ADD CONSTRAINT `pick_line_need_id_part_need_id_fk` FOREIGN KEY (`need_id`) REFERENCES `part_need`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `stock_count` ADD CONSTRAINT `stock_count_store_id_store_id_fk` FOREIGN KEY (`store_id`) REFERENCES `store`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `count_line_part` ON `count_line` (`part_id`,`counted_at`);--> statement-breakpoint
CREATE INDEX `pick_line_need` ON `pick_line` (`need_id`);--> statement-breakpoint
CREATE INDEX `pick_line_from` ON `pick_line` (`from_id`,`order_id`);--> statement-breakpoint
CREATE INDEX `stock_count_store` ON `stock_count` (`store_id`,`id`);