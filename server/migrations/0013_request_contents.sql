ALTER TABLE `agreement` ADD `request_content` varchar(64);--> statement-breakpoint
ALTER TABLE `order_event` ADD `request_content` varchar(64);--> statement-breakpoint
ALTER TABLE `work_order` ADD `request_content` varchar(64);