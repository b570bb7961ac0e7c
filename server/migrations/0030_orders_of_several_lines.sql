ALTER TABLE `allowance_draw` DROP INDEX `allowance_draw_once`;--> statement-breakpoint
ALTER TABLE `allowance_draw` DROP INDEX `allowance_draw_warranty_once`;--> statement-breakpoint
ALTER TABLE `work_order` DROP INDEX `work_order_visit`;--> statement-breakpoint
ALTER TABLE `location` ADD `join_days` int;--> statement-breakpoint
ALTER TABLE `allowance_draw` ADD `order_line_id` int unsigned;--> statement-breakpoint
UPDATE `allowance_draw` d JOIN `order_line` l ON l.`order_id` = d.`order_id` SET d.`order_line_id` = l.`id`;--> statement-breakpoint
ALTER TABLE `allowance_draw` MODIFY `order_line_id` int unsigned NOT NULL;--> statement-breakpoint
ALTER TABLE `planned_visit` ADD `joined` varchar(40);--> statement-breakpoint
ALTER TABLE `planned_visit` ADD `own_planned` date;--> statement-breakpoint
ALTER TABLE `planned_visit` ADD `own_raise` date;--> statement-breakpoint
ALTER TABLE `order_line` ADD `visit_id` int unsigned;--> statement-breakpoint
ALTER TABLE `order_line` ADD `minutes` int;--> statement-breakpoint
UPDATE `order_line` l JOIN `work_order` o ON o.`id` = l.`order_id` SET l.`visit_id` = o.`visit_id`, l.`minutes` = o.`minutes`;--> statement-breakpoint
ALTER TABLE `order_task` ADD `order_line_id` int unsigned;--> statement-breakpoint
UPDATE `order_task` t JOIN `order_line` l ON l.`order_id` = t.`order_id` SET t.`order_line_id` = l.`id`;--> statement-breakpoint
ALTER TABLE `order_task` MODIFY `order_line_id` int unsigned NOT NULL;--> statement-breakpoint
ALTER TABLE `allowance_draw` ADD CONSTRAINT `allowance_draw_once` UNIQUE(`order_line_id`,`allowance_id`);--> statement-breakpoint
ALTER TABLE `allowance_draw` ADD CONSTRAINT `allowance_draw_warranty_once` UNIQUE(`order_line_id`,`warranty_asset_id`);--> statement-breakpoint
CREATE INDEX `location_join` ON `location` (`join_days`);--> statement-breakpoint
CREATE INDEX `allowance_draw_order` ON `allowance_draw` (`order_id`);--> statement-breakpoint
CREATE INDEX `planned_visit_joined` ON `planned_visit` (`joined`);--> statement-breakpoint
ALTER TABLE `work_order` DROP COLUMN `visit_id`;