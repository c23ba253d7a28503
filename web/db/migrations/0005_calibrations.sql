-- A calibration: the rows that were measured, what came of them, and the robot's revision that took it over, if one
-- did. Rows and results are kept as they were, so that next year's team can see what last year's number stands on.
create table calibration (
  id uuid primary key default gen_random_uuid(),
  team_id uuid not null,
  robot_id uuid not null,
  quantity text not null,
  rows jsonb not null,
  result jsonb not null,
  applied_revision uuid,
  created_at timestamptz not null default date_trunc('milliseconds', now()),
  constraint calibration_team foreign key (team_id) references team (id),
  constraint calibration_robot foreign key (robot_id) references document (id),
  constraint calibration_revision foreign key (applied_revision) references revision (id),
  constraint calibration_quantity_named check (quantity <> '')
);

create index calibration_of_robot on calibration (team_id, robot_id, created_at desc, id desc);
