CREATE TABLE `watch_server` (
	`id` varchar(36) NOT NULL,
	`until` datetime(3) NOT NULL,
	CONSTRAINT `watch_server_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
ALTER TABLE `signal_shard` DROP COLUMN `until`;