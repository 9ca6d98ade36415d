-- +goose Up
ALTER TABLE people DROP CONSTRAINT people_role_check;
ALTER TABLE people ADD CONSTRAINT people_role_check CHECK (role IN ('administrator', 'instructor', 'learner'));
-- A person is disabled, never deleted: marks name them. An empty password_hash signs nobody in.
ALTER TABLE people ADD disabled_at timestamptz;

ALTER TABLE classes ADD time_zone text NOT NULL DEFAULT 'UTC';
ALTER TABLE classes ADD counts text NOT NULL DEFAULT 'best' CHECK (counts IN ('best', 'last'));

-- A code that lets one person choose a password, once. Only its hash is kept.
CREATE TABLE join_codes (
    hash       bytea PRIMARY KEY,
    person_id  bigint NOT NULL UNIQUE REFERENCES people (id), -- a new code takes the place of the one before
    created_at timestamptz NOT NULL DEFAULT now(),
    expires_at timestamptz NOT NULL
);

ALTER TABLE assignments
    ADD opens_at     timestamptz,
    ADD due_at       timestamptz,
    ADD late         text NOT NULL DEFAULT 'none' CHECK (late IN ('none', 'until', 'percent')),
    ADD late_until   timestamptz,
    ADD late_percent integer NOT NULL DEFAULT 0 CHECK (late_percent BETWEEN 0 AND 100),
    ADD attempts     integer NOT NULL DEFAULT 0 CHECK (attempts >= 0), -- 0: any number
    ADD sees         text NOT NULL DEFAULT 'shown' CHECK (sees IN ('marks', 'first', 'shown', 'all')),
    ADD minutes      integer NOT NULL DEFAULT 0 CHECK (minutes >= 0);  -- from opening it; 0: no limit

-- When a person opened an exercise that is timed.
CREATE TABLE starts (
    assignment_id bigint NOT NULL REFERENCES assignments (id),
    person_id     bigint NOT NULL REFERENCES people (id),
    started_at    timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (assignment_id, person_id)
);

-- A result names the revision that gave it, which a new grading may have changed.
ALTER TABLE results ADD revision_id bigint REFERENCES revisions (id);
UPDATE results r SET revision_id = h.revision_id FROM handins h WHERE h.id = r.handin_id;
ALTER TABLE results ALTER revision_id SET NOT NULL;

-- A mark given by hand, in place of the one that was graded.
CREATE TABLE overrides (
    handin_id  bigint PRIMARY KEY REFERENCES handins (id),
    earned     bigint NOT NULL, -- hundredths
    reason     text NOT NULL,
    by_id      bigint NOT NULL REFERENCES people (id),
    created_at timestamptz NOT NULL DEFAULT now()
);

-- What an instructor says about a line, a rung, or the whole.
CREATE TABLE comments (
    id         bigserial PRIMARY KEY,
    handin_id  bigint NOT NULL REFERENCES handins (id),
    by_id      bigint NOT NULL REFERENCES people (id),
    line       integer NOT NULL DEFAULT 0, -- from 1; 0: the whole
    text       text NOT NULL,
    created_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX comments_handin ON comments (handin_id);

-- Who changed what that a mark may depend on. Rows are added, never changed.
CREATE TABLE audit (
    id       bigserial PRIMARY KEY,
    at       timestamptz NOT NULL DEFAULT now(),
    by_id    bigint REFERENCES people (id), -- none: the command line on the service's machine
    class_id bigint REFERENCES classes (id),
    action   text NOT NULL,
    subject  text NOT NULL,
    before   jsonb,
    after    jsonb
);
CREATE INDEX audit_class ON audit (class_id, id);

-- +goose Down
DROP TABLE audit, comments, overrides, starts, join_codes;
ALTER TABLE results DROP revision_id;
ALTER TABLE assignments DROP opens_at, DROP due_at, DROP late, DROP late_until, DROP late_percent, DROP attempts, DROP sees, DROP minutes;
ALTER TABLE classes DROP time_zone, DROP counts;
ALTER TABLE people DROP disabled_at;
