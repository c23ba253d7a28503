-- Pictures that documents show: kept once by their content, whichever documents and revisions show them. A document
-- holds the SHA-256 alone, so that its revisions stay small and what was rehearsed on can be shown again.
create table asset (
  team_id uuid not null,
  sha256 text not null,
  media_type text not null,
  bytes bytea not null,
  created_at timestamptz not null default date_trunc('milliseconds', now()),
  constraint asset_pkey primary key (team_id, sha256),
  constraint asset_team foreign key (team_id) references team (id),
  constraint asset_sha256_hex check (sha256 ~ '^[0-9a-f]{64}$'),
  constraint asset_small check (octet_length(bytes) <= 4194304)
);
