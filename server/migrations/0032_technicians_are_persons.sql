ALTER TABLE `work_order` ADD `technician_id` int unsigned;--> statement-breakpoint
CREATE INDEX `work_order_technician` ON `work_order` (`technician_id`,`stage`);--> statement-breakpoint
UPDATE `work_order` o JOIN (SELECT `name`, MIN(`id`) AS `id` FROM `person` WHERE `role` = 'technician' GROUP BY `name` HAVING COUNT(*) = 1) p ON p.`name` = o.`technician` SET o.`technician_id` = p.`id`;--> statement-breakpoint
UPDATE `order_event` e JOIN (SELECT `name`, MIN(`id`) AS `id` FROM `person` WHERE `role` = 'technician' GROUP BY `name` HAVING COUNT(*) = 1) p ON p.`name` = CONVERT(JSON_VALUE(e.`act`, '$.technician') USING utf8mb4) COLLATE utf8mb4_unicode_ci SET e.`act` = JSON_SET(e.`act`, '$.technicianId', p.`id`) WHERE JSON_VALUE(e.`act`, '$.kind') IN ('planned', 'told');
