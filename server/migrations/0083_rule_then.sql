ALTER TABLE `alert` ADD `rule_then` json;--> statement-breakpoint
CREATE INDEX `alert_answered` ON `alert` (`acknowledged_at`,`told_at`);