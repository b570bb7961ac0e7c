-- Orders that were there before: the depot of their place, what they wait for, and when their visit is due. Days on which promises
-- end follow from the clocks, which are derived again at the next start.
UPDATE `work_order` w
JOIN (SELECT l.`order_id`, MIN(l.`id`) AS `line` FROM `order_line` l GROUP BY l.`order_id`) f ON f.`order_id` = w.`id`
JOIN `order_line` l ON l.`id` = f.`line`
JOIN `asset` a ON a.`id` = l.`asset_id`
JOIN (
	SELECT p.`id`, (
		SELECT d.`depot_id` FROM `location` d
		WHERE d.`depot_id` IS NOT NULL AND p.`path` LIKE CONCAT(d.`path`, '%')
		ORDER BY LENGTH(d.`path`) DESC LIMIT 1
	) AS `depot` FROM `location` p
) x ON x.`id` = a.`location_id`
SET w.`depot_id` = x.`depot`;
--> statement-breakpoint
UPDATE `work_order` w
SET w.`waiting_for` = (
	SELECT JSON_VALUE(e.`act`, '$.reason') FROM `order_event` e
	WHERE e.`order_id` = w.`id` AND JSON_VALUE(e.`act`, '$.kind') = 'paused'
	ORDER BY e.`at` DESC, e.`id` DESC LIMIT 1
)
WHERE w.`paused_since` IS NOT NULL;
--> statement-breakpoint
UPDATE `work_order` w
JOIN (SELECT v.`order_id`, MIN(v.`due`) AS `due` FROM `visit` v WHERE v.`order_id` IS NOT NULL GROUP BY v.`order_id`) x ON x.`order_id` = w.`id`
SET w.`next_due` = x.`due`
WHERE w.`stage` IN ('raised', 'planned', 'sent', 'on site');
