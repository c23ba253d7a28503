-- What a list of missions shows of each without opening it: the robot and field its text names, and whether it hands
-- over to a driver. Kept with the document at every save; a rename of a robot finds its missions by it.
alter table document add column names_robot text;
alter table document add column names_field text;
alter table document add column has_remote boolean not null default false;

update document d
set names_robot = substring(t.text from '(?n)^robot +"([^"]*)"'),
    names_field = substring(t.text from '(?n)^field +"([^"]*)"'),
    has_remote = t.text ~ '(?n)^remote[ \r]*$'
from (
  select d2.id, coalesce(w.text, r.text) as text
  from document d2
  join revision r on r.document_id = d2.id and r.number = d2.head_revision
  left join draft w on w.document_id = d2.id
  where d2.kind = 'mission'
) t
where t.id = d.id and t.text is not null;

create index document_listed on document (team_id, kind, created_at, id) where archived_at is null;
create index document_naming_robot on document (team_id, names_robot) where names_robot is not null;
create index calibration_applied on calibration (team_id, robot_id) where applied_revision is not null;
