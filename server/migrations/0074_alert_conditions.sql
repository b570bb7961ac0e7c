ALTER TABLE `alert` MODIFY COLUMN `worst` double;--> statement-breakpoint
ALTER TABLE `alert` ADD `since` datetime(3);--> statement-breakpoint
ALTER TABLE `alert` ADD `normal_since` datetime(3);--> statement-breakpoint
ALTER TABLE `alert_rule` ADD `condition` json;--> statement-breakpoint
ALTER TABLE `alert_rule` ADD `off_delay_seconds` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `alert_rule` ADD `hold_seconds` int DEFAULT 3600 NOT NULL;--> statement-breakpoint
ALTER TABLE `alert_rule` ADD `model` varchar(120);--> statement-breakpoint
ALTER TABLE `alert_rule` ADD `asset_id` int unsigned;--> statement-breakpoint
ALTER TABLE `alert_rule` ADD `watched` boolean DEFAULT true NOT NULL;--> statement-breakpoint
ALTER TABLE `rule_state` ADD `due_at` datetime(3);--> statement-breakpoint
ALTER TABLE `alert_rule` ADD CONSTRAINT `alert_rule_asset_id_asset_id_fk` FOREIGN KEY (`asset_id`) REFERENCES `asset`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `rule_state_due` ON `rule_state` (`due_at`);;--> statement-breakpoint
UPDATE `alert_rule` SET `condition` = JSON_OBJECT('kind', 'limit', 'side', `side`, 'limit', `threshold`, 'deadband', `deadband`);--> statement-breakpoint
ALTER TABLE `alert_rule` MODIFY COLUMN `condition` json NOT NULL;--> statement-breakpoint
UPDATE `alert` JOIN `alert_rule` ON `alert_rule`.`id` = `alert`.`rule_id`
SET `alert`.`since` = `alert`.`started_at` - INTERVAL `alert_rule`.`on_delay_seconds` SECOND,
    `alert`.`normal_since` = `alert`.`ended_at`;--> statement-breakpoint
UPDATE `rule_state` JOIN `alert_rule` ON `alert_rule`.`id` = `rule_state`.`rule_id`
SET `rule_state`.`due_at` = IF(JSON_VALUE(`state`, '$.kind') = 'pending', `last_at`, NULL),
    `rule_state`.`state` = JSON_OBJECT(
      'seen', JSON_OBJECT(
        'judged', IF(JSON_VALUE(`state`, '$.kind') = 'normal', 'normal', 'abnormal'),
        'known', IF(JSON_VALUE(`state`, '$.kind') = 'normal', 'normal', 'abnormal'),
        'last', NULL, 'recent', JSON_ARRAY(), 'changes', JSON_ARRAY(),
        'watchedFrom', TIMESTAMPDIFF(MICROSECOND, '1970-01-01', `last_at`) DIV 1000),
      'phase', CASE JSON_VALUE(`state`, '$.kind')
        WHEN 'pending' THEN JSON_OBJECT('kind', 'pending', 'since', CAST(JSON_VALUE(`state`, '$.since') AS INTEGER))
        WHEN 'active' THEN JSON_OBJECT('kind', 'active',
          'since', CAST(JSON_VALUE(`state`, '$.since') AS INTEGER) - 1000 * `alert_rule`.`on_delay_seconds`,
          'from', CAST(JSON_VALUE(`state`, '$.since') AS INTEGER))
        ELSE JSON_OBJECT('kind', 'normal') END,
      'worst', IF(JSON_VALUE(`state`, '$.kind') = 'normal', NULL, CAST(JSON_VALUE(`state`, '$.worst') AS DOUBLE)),
      'upTo', TIMESTAMPDIFF(MICROSECOND, '1970-01-01', `last_at`) DIV 1000);
