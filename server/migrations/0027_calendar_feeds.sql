CREATE TABLE `calendar_feed` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`secret_hash` varchar(64) NOT NULL,
	`kind` enum('customer','place','technician') NOT NULL,
	`of_id` int unsigned NOT NULL,
	`person_id` int unsigned,
	`at` datetime(3) NOT NULL,
	`read_at` datetime(3),
	`revoked_at` datetime(3),
	CONSTRAINT `calendar_feed_id` PRIMARY KEY(`id`),
	CONSTRAINT `calendar_feed_secret` UNIQUE(`secret_hash`)
);
