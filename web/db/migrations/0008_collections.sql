-- Collections of routines are documents of their own; a mission's text names those it uses, and each of its revisions
-- holds the text of them as it was then.
alter table document drop constraint document_kind_known;
alter table document add constraint document_kind_known
  check (kind in ('robot', 'field', 'mission', 'collection', 'controls', 'notebook'));

alter table document add column names_collections text[] not null default '{}';
create index document_naming_collections on document using gin (names_collections);
