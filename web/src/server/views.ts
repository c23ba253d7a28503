// Rows as the browser sees them.
import type { OpenDocument } from "./documentService.js";
import type { DocumentRow, DraftRow, ListedDocument, ListedRevision, RevisionRow } from "./repositories/documents.js";
import type { StudyRow } from "./repositories/studies.js";
import type { TrialRow } from "./repositories/trials.js";

export function documentView(row: DocumentRow) {
  return {
    id: row.id,
    kind: row.kind,
    name: row.name,
    headRevision: row.head_revision,
    createdAt: row.created_at.toISOString(),
    robot: row.names_robot,
    field: row.names_field,
    remote: row.has_remote,
    collections: row.names_collections,
  };
}

export function listedDocumentView(row: ListedDocument) {
  return {
    ...documentView(row),
    changedAt: row.changed_at.toISOString(),
    archivedAt: row.archived_at?.toISOString() ?? null,
  };
}

/** A revision in a list: what it holds is read one by one. */
export function listedRevisionView(row: ListedRevision) {
  const { id, number, parent, name, reason, author } = row;
  const createdAt = row.created_at.toISOString();
  return { id, number, parent, name, reason, author, contentHash: row.content_hash, createdAt };
}

export function revisionView(row: RevisionRow) {
  return { ...listedRevisionView(row), body: row.body ?? null, text: row.text };
}

export function draftView(row: DraftRow) {
  return {
    baseRevision: row.base_revision,
    version: row.version,
    body: row.body ?? null,
    text: row.text,
    updatedAt: row.updated_at.toISOString(),
  };
}

export function openView(open: OpenDocument) {
  return {
    document: documentView(open.document),
    head: revisionView(open.head),
    draft: open.draft ? draftView(open.draft) : null,
  };
}

export function trialView(row: TrialRow) {
  return {
    id: row.id,
    source: row.source,
    seed: row.seed,
    ideal: row.ideal,
    outcome: row.outcome,
    success: row.success,
    score: row.score,
    durationMs: row.duration_ms,
    note: row.note,
    tape: row.tape,
    tags: row.tags,
    startedAt: row.started_at.toISOString(),
    coreVersion: row.core_version,
    mission: {
      document: row.mission_document,
      name: row.mission_name,
      revision: row.mission_revision,
      number: row.mission_number,
    },
    robot: {
      document: row.robot_document,
      name: row.robot_name,
      revision: row.robot_revision,
      number: row.robot_number,
    },
    field:
      row.field_revision === null
        ? null
        : {
            document: row.field_document,
            name: row.field_name,
            revision: row.field_revision,
            number: row.field_number,
          },
    summary: row.summary,
  };
}

export function studyView(row: StudyRow) {
  return {
    id: row.id,
    seed: row.seed,
    runs: row.runs,
    successes: row.successes,
    coreVersion: row.core_version,
    createdAt: row.created_at.toISOString(),
    mission: { document: row.mission_document, name: row.mission_name, number: row.mission_number },
    robot: { name: row.robot_name, number: row.robot_number },
  };
}
