ALTER TABLE `alert_rule` DROP COLUMN `side`;--> statement-breakpoint
ALTER TABLE `alert_rule` DROP COLUMN `threshold`;--> statement-breakpoint
ALTER TABLE `alert_rule` DROP COLUMN `deadband`;