ALTER TABLE `asset_class_meter` ADD `wraps_at` double;--> statement-breakpoint
ALTER TABLE `meter` ADD `wraps_at` double;