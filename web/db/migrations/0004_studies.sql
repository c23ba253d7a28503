-- A study is many rehearsals of one version: only its figures are kept, since any run of it can be had again from
-- the seed and its number. "When did it last work?" is asked of studies and of single trials.
create table study (
  id uuid primary key default gen_random_uuid(),
  team_id uuid not null,
  mission_revision uuid not null,
  robot_revision uuid not null,
  field_revision uuid,
  core_version text not null,
  seed bigint not null,
  runs integer not null,
  successes integer not null,
  summary jsonb not null,
  created_at timestamptz not null default date_trunc('milliseconds', now()),
  constraint study_team foreign key (team_id) references team (id),
  constraint study_mission foreign key (mission_revision) references revision (id),
  constraint study_robot foreign key (robot_revision) references revision (id),
  constraint study_field foreign key (field_revision) references revision (id),
  constraint study_runs_bounded check (runs between 1 and 10000),
  constraint study_successes_within check (successes between 0 and runs)
);

create index study_by_mission on study (mission_revision);
create index study_newest on study (team_id, created_at desc, id desc);
