DROP INDEX `visit_claim` ON `visit`;--> statement-breakpoint
ALTER TABLE `schedule` ADD `visit_price` bigint;--> statement-breakpoint
ALTER TABLE `order_line` ADD `visit_price` bigint;--> statement-breakpoint
ALTER TABLE `visit` DROP COLUMN `claim`;--> statement-breakpoint
UPDATE `visit_pattern` SET `terms` = JSON_SET(`terms`, '$.visitPrice', NULL);--> statement-breakpoint
UPDATE `line_schedule` SET `terms` = JSON_SET(`terms`, '$.visitPrice', NULL);
