ALTER TABLE `gateway` ADD `former_hash` varchar(64);--> statement-breakpoint
ALTER TABLE `gateway` ADD `former_until` datetime(3);--> statement-breakpoint
CREATE INDEX `gateway_former` ON `gateway` (`former_hash`);