-- Today reads why schedules yield nothing from where the plan left it: the next planning begins anew and leaves it.
UPDATE `plan_state` SET `horizon` = NULL;
