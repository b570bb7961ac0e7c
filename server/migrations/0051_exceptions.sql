CREATE TABLE `order_exception` (
	`event_id` bigint unsigned NOT NULL,
	`order_id` int unsigned NOT NULL,
	`kind` enum('over terms','decided again','task left','machine left','not signed for','done with something missing') NOT NULL,
	`at` datetime(3) NOT NULL,
	`person_id` int unsigned,
	CONSTRAINT `order_exception_event_id` PRIMARY KEY(`event_id`)
);
--> statement-breakpoint
ALTER TABLE `order_exception` ADD CONSTRAINT `order_exception_event_id_order_event_id_fk` FOREIGN KEY (`event_id`) REFERENCES `order_event`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `order_exception` ADD CONSTRAINT `order_exception_order_id_work_order_id_fk` FOREIGN KEY (`order_id`) REFERENCES `work_order`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `order_exception_order` ON `order_exception` (`order_id`);--> statement-breakpoint
CREATE INDEX `order_exception_at` ON `order_exception` (`at`,`event_id`);--> statement-breakpoint
CREATE INDEX `order_exception_kind` ON `order_exception` (`kind`,`at`);--> statement-breakpoint
CREATE INDEX `order_exception_person` ON `order_exception` (`person_id`,`at`);--> statement-breakpoint
UPDATE `order_event` e JOIN `work_order` w ON w.`id` = e.`order_id` SET e.`act` = JSON_SET(e.`act`, '$.exception', 'over terms')
 WHERE JSON_VALUE(e.`act`, '$.kind') = 'note' AND JSON_VALUE(e.`act`, '$.text') LIKE 'over terms since %' AND e.`at` = w.`started_at`;--> statement-breakpoint
INSERT INTO `order_exception` (`event_id`, `order_id`, `kind`, `at`, `person_id`)
SELECT `id`, `order_id`,
  CASE JSON_VALUE(`act`, '$.kind') WHEN 'note' THEN 'over terms' WHEN 'changed' THEN 'decided again' ELSE 'done with something missing' END,
  `at`, `person_id`
FROM `order_event`
WHERE JSON_VALUE(`act`, '$.exception') = 'over terms'
  OR (JSON_VALUE(`act`, '$.kind') = 'changed' AND (JSON_EXISTS(`act`, '$.priority') OR JSON_EXISTS(`act`, '$.lines[*].cause')))
  OR (JSON_VALUE(`act`, '$.kind') = 'done' AND TRIM(JSON_VALUE(`act`, '$.anyway')) <> '');--> statement-breakpoint
INSERT INTO `order_exception` (`event_id`, `order_id`, `kind`, `at`, `person_id`)
SELECT e.`id`, e.`order_id`, IF(said.`kind` = 'task', 'task left', 'machine left'), e.`at`, e.`person_id`
FROM (
  SELECT MAX(`id`) AS `id`, JSON_VALUE(`act`, '$.kind') AS `kind`
  FROM `order_event`
  WHERE JSON_VALUE(`act`, '$.kind') IN ('task', 'line')
  GROUP BY `order_id`, JSON_VALUE(`act`, '$.kind'), COALESCE(JSON_VALUE(`act`, '$.taskId'), JSON_VALUE(`act`, '$.lineId'))
) AS said
JOIN `order_event` e ON e.`id` = said.`id`
LEFT JOIN `order_task` t ON said.`kind` = 'task' AND t.`id` = JSON_VALUE(e.`act`, '$.taskId')
WHERE JSON_VALUE(e.`act`, '$.outcome') = 'left' AND (said.`kind` = 'line' OR t.`mandatory` = 1);
