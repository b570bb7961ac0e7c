CREATE TABLE `asset_class_form` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`class_id` int unsigned NOT NULL,
	`name` varchar(120) NOT NULL,
	`kinds` json NOT NULL,
	`questions` json NOT NULL,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `asset_class_form_id` PRIMARY KEY(`id`),
	CONSTRAINT `asset_class_form_name` UNIQUE(`class_id`,`name`)
);
--> statement-breakpoint
CREATE TABLE `order_form` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`order_id` int unsigned NOT NULL,
	`position` int NOT NULL,
	`asset_id` int unsigned NOT NULL,
	`name` varchar(120) NOT NULL,
	`questions` json NOT NULL,
	CONSTRAINT `order_form_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
ALTER TABLE `asset_class_form` ADD CONSTRAINT `asset_class_form_class_id_asset_class_id_fk` FOREIGN KEY (`class_id`) REFERENCES `asset_class`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `order_form` ADD CONSTRAINT `order_form_order_id_work_order_id_fk` FOREIGN KEY (`order_id`) REFERENCES `work_order`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `order_form` ADD CONSTRAINT `order_form_asset_id_asset_id_fk` FOREIGN KEY (`asset_id`) REFERENCES `asset`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `order_form_order` ON `order_form` (`order_id`,`position`);