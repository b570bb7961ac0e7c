ALTER TABLE `schedule` ADD `weekday` int;--> statement-breakpoint
ALTER TABLE `schedule` ADD `time_of_day` int;--> statement-breakpoint
ALTER TABLE `schedule` ADD `needs_yes` boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `schedule` ADD `reminder` varchar(500) DEFAULT '' NOT NULL;