-- Which demo documents were ever loaded: one that a person archived does not come back at the next start.
create table demo_load (
  team_id uuid not null,
  file text not null,
  loaded_at timestamptz not null default now(),
  constraint demo_load_pkey primary key (team_id, file),
  constraint demo_load_team foreign key (team_id) references team (id)
);
