ALTER TABLE `clock` ADD `late_ms` bigint;--> statement-breakpoint
ALTER TABLE `clock` ADD `late_from` datetime(3);--> statement-breakpoint
ALTER TABLE `clock` ADD `derivation` int DEFAULT 1 NOT NULL;--> statement-breakpoint
CREATE INDEX `clock_derivation` ON `clock` (`derivation`);