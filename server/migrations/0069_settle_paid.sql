CREATE TABLE `credit_setting` (
	`id` int NOT NULL,
	`grace_days` int,
	CONSTRAINT `credit_setting_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `allocation` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`kind` enum('payment','credit note','written off') NOT NULL,
	`incoming_id` int unsigned,
	`credit_id` int unsigned,
	`document_id` int unsigned NOT NULL,
	`minor` bigint NOT NULL,
	`reason` varchar(200) NOT NULL DEFAULT '',
	`on` date NOT NULL,
	`person_id` int unsigned,
	`at` datetime(3) NOT NULL,
	`undone_on` date,
	`undone_by_id` int unsigned,
	`undone_because` varchar(200),
	`request_key` varchar(60),
	`request_content` varchar(64),
	CONSTRAINT `allocation_id` PRIMARY KEY(`id`),
	CONSTRAINT `allocation_request` UNIQUE(`request_key`)
);
--> statement-breakpoint
CREATE TABLE `bank_file` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`name` varchar(160) NOT NULL,
	`account` varchar(40) NOT NULL,
	`entries` int NOT NULL,
	`known` int NOT NULL,
	`laid` int NOT NULL,
	`passed` int NOT NULL,
	`bad` int NOT NULL,
	`person_id` int unsigned NOT NULL,
	`at` datetime(3) NOT NULL,
	`request_key` varchar(60) NOT NULL,
	`request_content` varchar(64) NOT NULL,
	CONSTRAINT `bank_file_id` PRIMARY KEY(`id`),
	CONSTRAINT `bank_file_request` UNIQUE(`request_key`)
);
--> statement-breakpoint
CREATE TABLE `credit_mark` (
	`customer_id` int unsigned NOT NULL,
	`marks` int NOT NULL,
	CONSTRAINT `credit_mark_customer_id` PRIMARY KEY(`customer_id`)
);
--> statement-breakpoint
CREATE TABLE `incoming_payment` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`customer_id` int unsigned,
	`state` enum('open','laid','aside') NOT NULL,
	`minor` bigint NOT NULL,
	`left` bigint NOT NULL,
	`currency` varchar(3) NOT NULL,
	`booked_on` date NOT NULL,
	`journal_on` date NOT NULL,
	`payer` varchar(140) NOT NULL,
	`payer_account` varchar(40) NOT NULL,
	`text` varchar(500) NOT NULL,
	`file_id` int unsigned,
	`bank_key` varchar(64),
	`aside_because` varchar(200),
	`person_id` int unsigned NOT NULL,
	`at` datetime(3) NOT NULL,
	`request_key` varchar(60),
	`request_content` varchar(64),
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `incoming_payment_id` PRIMARY KEY(`id`),
	CONSTRAINT `incoming_payment_bank` UNIQUE(`bank_key`),
	CONSTRAINT `incoming_payment_request` UNIQUE(`request_key`)
);
--> statement-breakpoint
CREATE TABLE `reminder` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`document_id` int unsigned NOT NULL,
	`level` int NOT NULL,
	`unpaid` bigint NOT NULL,
	`on` date NOT NULL,
	`sent_to` varchar(200) NOT NULL,
	`person_id` int unsigned NOT NULL,
	`at` datetime(3) NOT NULL,
	CONSTRAINT `reminder_id` PRIMARY KEY(`id`),
	CONSTRAINT `reminder_level` UNIQUE(`document_id`,`level`)
);
--> statement-breakpoint
ALTER TABLE `document` ADD `unpaid` bigint DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `document` ADD `open_due` date;--> statement-breakpoint
ALTER TABLE `settle_setting` ADD `reminder_levels` json;--> statement-breakpoint
ALTER TABLE `allocation` ADD CONSTRAINT `allocation_incoming_id_incoming_payment_id_fk` FOREIGN KEY (`incoming_id`) REFERENCES `incoming_payment`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `allocation` ADD CONSTRAINT `allocation_credit_id_document_id_fk` FOREIGN KEY (`credit_id`) REFERENCES `document`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `allocation` ADD CONSTRAINT `allocation_document_id_document_id_fk` FOREIGN KEY (`document_id`) REFERENCES `document`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `incoming_payment` ADD CONSTRAINT `incoming_payment_customer_id_customer_id_fk` FOREIGN KEY (`customer_id`) REFERENCES `customer`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `incoming_payment` ADD CONSTRAINT `incoming_payment_file_id_bank_file_id_fk` FOREIGN KEY (`file_id`) REFERENCES `bank_file`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `reminder` ADD CONSTRAINT `reminder_document_id_document_id_fk` FOREIGN KEY (`document_id`) REFERENCES `document`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `allocation_document` ON `allocation` (`document_id`,`id`);--> statement-breakpoint
CREATE INDEX `allocation_incoming` ON `allocation` (`incoming_id`,`id`);--> statement-breakpoint
CREATE INDEX `allocation_credit` ON `allocation` (`credit_id`,`id`);--> statement-breakpoint
CREATE INDEX `allocation_on` ON `allocation` (`kind`,`on`);--> statement-breakpoint
CREATE INDEX `allocation_undone` ON `allocation` (`kind`,`undone_on`);--> statement-breakpoint
CREATE INDEX `bank_file_at` ON `bank_file` (`at`);--> statement-breakpoint
CREATE INDEX `incoming_payment_state` ON `incoming_payment` (`state`,`booked_on`,`id`);--> statement-breakpoint
CREATE INDEX `incoming_payment_customer` ON `incoming_payment` (`customer_id`,`state`,`id`);--> statement-breakpoint
CREATE INDEX `incoming_payment_account` ON `incoming_payment` (`payer_account`,`customer_id`);--> statement-breakpoint
CREATE INDEX `incoming_payment_journal` ON `incoming_payment` (`journal_on`,`id`);--> statement-breakpoint
CREATE INDEX `incoming_payment_file` ON `incoming_payment` (`file_id`);--> statement-breakpoint
CREATE INDEX `document_open` ON `document` (`open_due`,`customer_id`);--> statement-breakpoint
CREATE INDEX `document_open_customer` ON `document` (`customer_id`,`open_due`);--> statement-breakpoint
CREATE INDEX `document_issued` ON `document` (`issued_on`,`id`);--> statement-breakpoint
-- Credit notes are laid on the invoices that they take back, in the order in which they were written, as far as these have something open.
INSERT INTO `allocation` (`kind`, `credit_id`, `document_id`, `minor`, `on`, `person_id`, `at`)
SELECT 'credit note', l.`note`, l.`invoice`, l.`laid`, l.`issued_on`, l.`person_id`, l.`issued_at` FROM (
  SELECT n.`id` AS `note`, i.`id` AS `invoice`, n.`issued_on`, n.`person_id`, n.`issued_at`,
    LEAST(n.`with_tax`, i.`with_tax` - i.`paid` - COALESCE(SUM(n.`with_tax`) OVER (
      PARTITION BY n.`of_id` ORDER BY n.`id` ROWS BETWEEN UNBOUNDED PRECEDING AND 1 PRECEDING), 0)) AS `laid`
  FROM `document` n JOIN `document` i ON i.`id` = n.`of_id`
  WHERE n.`kind` = 'credit note' AND n.`state` = 'issued'
) l WHERE l.`laid` > 0;--> statement-breakpoint
UPDATE `document` d SET d.`unpaid` = IF(d.`kind` = 'invoice',
  d.`with_tax` - d.`paid` - COALESCE((SELECT SUM(a.`minor`) FROM `allocation` a WHERE a.`document_id` = d.`id`), 0),
  COALESCE((SELECT SUM(a.`minor`) FROM `allocation` a WHERE a.`credit_id` = d.`id`), 0) - d.`with_tax`)
WHERE d.`state` = 'issued';--> statement-breakpoint
UPDATE `document` SET `open_due` = `due_on` WHERE `unpaid` <> 0;
