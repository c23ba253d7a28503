-- Everything a person edits is a document: a chain of revisions that never change, and one draft that
-- does. Drafts carry a version so that two open tabs notice each other instead of the last one winning.
create table team (
  id uuid primary key default gen_random_uuid(),
  name text not null,
  created_at timestamptz not null default now(),
  constraint team_name_unique unique (name)
);

create table document (
  id uuid primary key default gen_random_uuid(),
  team_id uuid not null,
  kind text not null,
  name text not null,
  head_revision integer not null default 0,
  created_at timestamptz not null default now(),
  archived_at timestamptz,
  constraint document_team foreign key (team_id) references team (id),
  constraint document_kind_known check (kind in ('robot', 'field', 'mission', 'controls', 'notebook')),
  constraint document_name_filled check (length(name) between 1 and 120)
);

create unique index document_active_name on document (team_id, kind, name) where archived_at is null;

create table revision (
  id uuid primary key default gen_random_uuid(),
  document_id uuid not null,
  number integer not null,
  parent integer,
  body jsonb,
  text text,
  name text,
  reason text not null,
  author text not null,
  content_hash text not null,
  created_at timestamptz not null default now(),
  constraint revision_document foreign key (document_id) references document (id),
  constraint revision_number_unique unique (document_id, number),
  constraint revision_number_positive check (number >= 1),
  constraint revision_parent_before check (parent is null or parent < number),
  constraint revision_holds_something check (body is not null or text is not null)
);

create table draft (
  document_id uuid not null,
  author text not null,
  base_revision integer not null,
  version integer not null default 1,
  body jsonb,
  text text,
  updated_at timestamptz not null default now(),
  constraint draft_pkey primary key (document_id, author),
  constraint draft_document foreign key (document_id) references document (id),
  constraint draft_holds_something check (body is not null or text is not null)
);
