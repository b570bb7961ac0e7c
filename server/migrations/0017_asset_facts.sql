ALTER TABLE `asset_event` MODIFY COLUMN `kind` enum('registered','changed','retired','installed','moved','swapped in','swapped out','removed','scrapped','out of service','back in service','merged','taken over') NOT NULL;--> statement-breakpoint
ALTER TABLE `asset_event` ADD `fact` json;--> statement-breakpoint
INSERT INTO `asset_event` (`asset_id`, `kind`, `at`, `recorded_at`, `text`, `fact`)
SELECT a.id, 'taken over', UTC_TIMESTAMP(3), UTC_TIMESTAMP(3), 'facts are kept from here on', JSON_OBJECT(
	'kind', 'taken over',
	'asset', JSON_OBJECT(
		'customerId', a.customer_id, 'locationId', a.location_id, 'parentId', a.parent_id, 'classId', a.class_id,
		'maker', a.maker, 'model', a.model, 'serial', a.serial, 'tag', a.tag, 'owner', a.owner, 'state', a.state,
		'commissioned', a.commissioned, 'rentedSince', a.rented_since,
		'warrantyFrom', a.warranty_from, 'warrantyUntil', a.warranty_until,
		'warrantyLabour', a.warranty_labour, 'warrantyParts', a.warranty_parts,
		'warrantyTravel', a.warranty_travel, 'warrantyVisits', a.warranty_visits),
	'stays', JSON_EXTRACT(COALESCE((
		SELECT JSON_ARRAYAGG(JSON_OBJECT('until', s.until, 'locationId', s.location_id, 'customerId', s.customer_id) ORDER BY s.until)
		FROM asset_past_stay s WHERE s.asset_id = a.id), '[]'), '$'))
FROM `asset` a;
