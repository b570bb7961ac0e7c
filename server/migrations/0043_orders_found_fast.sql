DROP INDEX `work_order_depot` ON `work_order`;--> statement-breakpoint
CREATE INDEX `work_order_waiting` ON `work_order` (`waiting_for`);--> statement-breakpoint
CREATE INDEX `work_order_started` ON `work_order` (`started_at`);--> statement-breakpoint
CREATE INDEX `work_order_goes` ON `work_order` (`technician_id`);--> statement-breakpoint
CREATE INDEX `work_order_depot` ON `work_order` (`depot_id`,`started_at`);