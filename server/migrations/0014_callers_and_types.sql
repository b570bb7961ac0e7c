ALTER TABLE `agreement` ADD `type_id` int unsigned;--> statement-breakpoint
ALTER TABLE `work_order` ADD `caller_id` int unsigned;