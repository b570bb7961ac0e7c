CREATE TABLE `device_tie` (
	`device_id` int unsigned NOT NULL,
	`asset_id` int unsigned NOT NULL,
	`from` datetime(3) NOT NULL,
	`to` datetime(3),
	CONSTRAINT `device_tie_device_id_from_pk` PRIMARY KEY(`device_id`,`from`)
);
--> statement-breakpoint
CREATE TABLE `rule_checkpoint` (
	`rule_id` int unsigned NOT NULL,
	`asset_id` int unsigned NOT NULL,
	`at` datetime(3) NOT NULL,
	`state` json NOT NULL,
	CONSTRAINT `rule_checkpoint_asset_id_rule_id_at_pk` PRIMARY KEY(`asset_id`,`rule_id`,`at`)
);
--> statement-breakpoint
CREATE TABLE `signal_shard` (
	`id` int NOT NULL,
	`holder` varchar(36),
	`until` datetime(3),
	`epoch` int NOT NULL DEFAULT 1,
	CONSTRAINT `signal_shard_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `to_judge` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`shard` int NOT NULL,
	`asset_id` int unsigned NOT NULL,
	`channel` varchar(40),
	`from` datetime(3) NOT NULL,
	CONSTRAINT `to_judge_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `unknown_device` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`device_key` varchar(100) NOT NULL,
	`first_at` datetime(3) NOT NULL,
	`last_at` datetime(3) NOT NULL,
	`records` int NOT NULL,
	`channels` varchar(200) NOT NULL,
	`refused_at` datetime(3),
	CONSTRAINT `unknown_device_id` PRIMARY KEY(`id`),
	CONSTRAINT `unknown_device_key` UNIQUE(`device_key`)
);
--> statement-breakpoint
ALTER TABLE `alert` ADD `withdrawn_at` datetime(3);--> statement-breakpoint
ALTER TABLE `alert` ADD `no_order` varchar(300);--> statement-breakpoint
ALTER TABLE `alert_rule` ADD `watched_since` datetime(3);--> statement-breakpoint
ALTER TABLE `rule_state` ADD `checkpoint_at` datetime(3);--> statement-breakpoint
ALTER TABLE `device_tie` ADD CONSTRAINT `device_tie_device_id_device_id_fk` FOREIGN KEY (`device_id`) REFERENCES `device`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `device_tie` ADD CONSTRAINT `device_tie_asset_id_asset_id_fk` FOREIGN KEY (`asset_id`) REFERENCES `asset`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `device_tie_asset` ON `device_tie` (`asset_id`);--> statement-breakpoint
CREATE INDEX `rule_checkpoint_at` ON `rule_checkpoint` (`at`);--> statement-breakpoint
CREATE INDEX `to_judge_shard` ON `to_judge` (`shard`,`id`);--> statement-breakpoint
CREATE INDEX `unknown_device_last` ON `unknown_device` (`refused_at`,`last_at`);--> statement-breakpoint
ALTER TABLE `device` DROP COLUMN `last_at`;--> statement-breakpoint
INSERT INTO `signal_shard` (`id`) VALUES
(0), (1), (2), (3), (4), (5), (6), (7), (8), (9), (10), (11), (12), (13), (14), (15),
(16), (17), (18), (19), (20), (21), (22), (23), (24), (25), (26), (27), (28), (29), (30), (31),
(32), (33), (34), (35), (36), (37), (38), (39), (40), (41), (42), (43), (44), (45), (46), (47),
(48), (49), (50), (51), (52), (53), (54), (55), (56), (57), (58), (59), (60), (61), (62), (63),
(64);--> statement-breakpoint
INSERT INTO `device_tie` (`device_id`, `asset_id`, `from`) SELECT `id`, `asset_id`, '1970-01-01' FROM `device`;--> statement-breakpoint
INSERT INTO `rule_checkpoint` (`rule_id`, `asset_id`, `at`, `state`) SELECT `rule_id`, `asset_id`, `last_at`, `state` FROM `rule_state`;--> statement-breakpoint
UPDATE `rule_state` SET `checkpoint_at` = `last_at`;
