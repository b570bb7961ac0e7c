CREATE TABLE `centre_entry` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`order_id` int unsigned NOT NULL,
	`bearer` enum('warranty','own') NOT NULL,
	`centre` varchar(160) NOT NULL,
	`currency` varchar(3) NOT NULL,
	`minor` bigint NOT NULL,
	`on` date NOT NULL,
	`person_id` int unsigned NOT NULL,
	`at` datetime(3) NOT NULL,
	CONSTRAINT `centre_entry_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
ALTER TABLE `order_charge` ADD `bears` enum('agreement','warranty','own');--> statement-breakpoint
ALTER TABLE `settle_setting` ADD `closed_to` date;--> statement-breakpoint
ALTER TABLE `settle_setting` ADD `accounts` json;--> statement-breakpoint
ALTER TABLE `centre_entry` ADD CONSTRAINT `centre_entry_order_id_work_order_id_fk` FOREIGN KEY (`order_id`) REFERENCES `work_order`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `centre_entry_on` ON `centre_entry` (`on`,`id`);--> statement-breakpoint
CREATE INDEX `centre_entry_order` ON `centre_entry` (`order_id`,`id`);--> statement-breakpoint
CREATE INDEX `order_payment_at` ON `order_payment` (`state`,`at`);--> statement-breakpoint
-- Who bears what was approved before, by what it is called: the warranty of a machine, our own fleet or a cost we took on, else an agreement.
UPDATE `order_charge` SET `bears` = CASE
  WHEN `element` = 'other' OR `bearer` = 'our own fleet' THEN 'own'
  WHEN `bearer` LIKE 'Warranty to %' THEN 'warranty'
  ELSE 'agreement' END
WHERE `borne` <> 0;--> statement-breakpoint
INSERT INTO `centre_entry` (`order_id`, `bearer`, `centre`, `currency`, `minor`, `on`, `person_id`, `at`)
SELECT c.`order_id`, c.`bears`, COALESCE(IF(c.`bears` = 'warranty', m.`maker`, c.`bearer`), ''), a.`currency`, SUM(c.`borne`),
  DATE(COALESCE(a.`second_at`, a.`at`)), COALESCE(a.`second_id`, a.`person_id`), COALESCE(a.`second_at`, a.`at`)
FROM `order_charge` c JOIN `order_approval` a ON a.`order_id` = c.`order_id` AND a.`state` = 'approved'
LEFT JOIN `asset` m ON m.`id` = c.`asset_id`
WHERE c.`bears` IN ('warranty', 'own')
GROUP BY c.`order_id`, c.`bears`, COALESCE(IF(c.`bears` = 'warranty', m.`maker`, c.`bearer`), ''), a.`currency`,
  a.`second_at`, a.`at`, a.`second_id`, a.`person_id`;
