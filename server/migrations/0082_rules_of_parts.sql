ALTER TABLE `alert` MODIFY COLUMN `held_by` enum('shelved','suppressed','part');--> statement-breakpoint
ALTER TABLE `alert_rule` ADD `part_only` boolean DEFAULT false NOT NULL;