-- A trial is one run with exactly what produced it; its trace (columns and events, deflated) stands in a
-- table of its own so that listing trials never reads megabytes.
create table trial (
  id uuid primary key default gen_random_uuid(),
  team_id uuid not null,
  mission_revision uuid not null,
  robot_revision uuid not null,
  field_revision uuid,
  core_version text not null,
  source text not null,
  seed bigint not null,
  ideal boolean not null default false,
  outcome text not null,
  success boolean not null,
  score double precision,
  duration_ms integer not null,
  summary jsonb not null,
  note text not null default '',
  -- Whole milliseconds, so that a cursor made of it in the browser is exact.
  started_at timestamptz not null default date_trunc('milliseconds', now()),
  constraint trial_team foreign key (team_id) references team (id),
  constraint trial_mission foreign key (mission_revision) references revision (id),
  constraint trial_robot foreign key (robot_revision) references revision (id),
  constraint trial_field foreign key (field_revision) references revision (id),
  constraint trial_source_known check (source in ('rehearsal', 'robot', 'drive')),
  constraint trial_outcome_known check (outcome in ('finished', 'stopped', 'problem')),
  constraint trial_duration_positive check (duration_ms >= 0)
);

create index trial_newest on trial (team_id, started_at desc, id desc);
create index trial_by_mission on trial (mission_revision);

create table trace (
  trial_id uuid primary key,
  format integer not null,
  data bytea not null,
  constraint trace_trial foreign key (trial_id) references trial (id) on delete cascade,
  constraint trace_bounded check (octet_length(data) <= 10485760)
);
