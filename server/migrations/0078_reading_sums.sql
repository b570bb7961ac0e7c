CREATE TABLE `reading_day` (
	`device_id` int unsigned NOT NULL,
	`channel` varchar(40) NOT NULL,
	`n` int NOT NULL,
	`low` double NOT NULL,
	`high` double NOT NULL,
	`sum` double NOT NULL,
	`day` datetime(3) NOT NULL,
	CONSTRAINT `reading_day_device_id_channel_day_pk` PRIMARY KEY(`device_id`,`channel`,`day`)
);
--> statement-breakpoint
CREATE TABLE `reading_hour` (
	`device_id` int unsigned NOT NULL,
	`channel` varchar(40) NOT NULL,
	`n` int NOT NULL,
	`low` double NOT NULL,
	`high` double NOT NULL,
	`sum` double NOT NULL,
	`hour` datetime(3) NOT NULL,
	CONSTRAINT `reading_hour_device_id_channel_hour_pk` PRIMARY KEY(`device_id`,`channel`,`hour`)
);
--> statement-breakpoint
CREATE TABLE `reading_summed` (
	`id` int NOT NULL,
	`up_to` datetime(3) NOT NULL,
	CONSTRAINT `reading_summed_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `stale_hour` (
	`device_id` int unsigned NOT NULL,
	`channel` varchar(40) NOT NULL,
	`hour` datetime(3) NOT NULL,
	CONSTRAINT `stale_hour_device_id_channel_hour_pk` PRIMARY KEY(`device_id`,`channel`,`hour`)
);
--> statement-breakpoint
ALTER TABLE `reading` PARTITION BY RANGE COLUMNS(`at`) (PARTITION `p_open` VALUES LESS THAN (MAXVALUE));
