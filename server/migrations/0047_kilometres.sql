ALTER TABLE `time_entry` ADD `kilometres` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `time_entry_line` ADD `kilometres` int DEFAULT 0 NOT NULL;