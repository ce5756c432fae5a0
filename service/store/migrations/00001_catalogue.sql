-- +goose Up
CREATE TABLE accounts (
  id            BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  name          VARCHAR(60)  NOT NULL UNIQUE,
  password_hash VARCHAR(200) NOT NULL,
  operator      BOOLEAN      NOT NULL DEFAULT FALSE,
  created_at    DATETIME(3)  NOT NULL
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

-- A session belongs to a browser, a token to a program. Both are kept as the
-- SHA-256 of their secret alone.
CREATE TABLE sessions (
  secret_hash BINARY(32)      NOT NULL PRIMARY KEY,
  account_id  BIGINT UNSIGNED NOT NULL,
  created_at  DATETIME(3)     NOT NULL,
  expires_at  DATETIME(3)     NOT NULL,
  KEY (expires_at),
  FOREIGN KEY (account_id) REFERENCES accounts (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

CREATE TABLE tokens (
  id           BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  account_id   BIGINT UNSIGNED NOT NULL,
  label        VARCHAR(100)    NOT NULL,
  secret_hash  BINARY(32)      NOT NULL UNIQUE,
  created_at   DATETIME(3)     NOT NULL,
  last_used_at DATETIME(3)     NULL,
  FOREIGN KEY (account_id) REFERENCES accounts (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

-- A bundle is cut into chunks of a bounded size, compressed one by one.
CREATE TABLE bundles (
  digest     CHAR(71)        NOT NULL PRIMARY KEY,
  size       BIGINT UNSIGNED NOT NULL,
  created_at DATETIME(3)     NOT NULL
) CHARACTER SET ascii COLLATE ascii_bin;

CREATE TABLE chunks (
  digest   CHAR(71)     NOT NULL,
  position INT UNSIGNED NOT NULL,
  data     MEDIUMBLOB   NOT NULL,
  PRIMARY KEY (digest, position),
  FOREIGN KEY (digest) REFERENCES bundles (digest) ON DELETE CASCADE
) CHARACTER SET ascii COLLATE ascii_bin;

CREATE TABLE templates (
  id         BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  team       VARCHAR(60)     NOT NULL,
  name       VARCHAR(60)     NOT NULL,
  title      VARCHAR(100)    NOT NULL,
  summary    VARCHAR(300)    NOT NULL,
  licence    VARCHAR(100)    NOT NULL,
  labels     TEXT            NOT NULL, -- a JSON list
  version    VARCHAR(100)    NOT NULL, -- the one shown: the highest release
  versions   INT UNSIGNED    NOT NULL,
  words      TEXT            NOT NULL, -- what is searched, in lower case
  created_at DATETIME(3)     NOT NULL,
  updated_at DATETIME(3)     NOT NULL,
  UNIQUE KEY (team, name),
  KEY (updated_at)
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

CREATE TABLE versions (
  id           BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  template_id  BIGINT UNSIGNED NOT NULL,
  version      VARCHAR(100)    NOT NULL,
  digest       CHAR(71)        CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  files        INT UNSIGNED    NOT NULL,
  slots        INT UNSIGNED    NOT NULL,
  published_at DATETIME(3)     NOT NULL,
  published_by VARCHAR(60)     NOT NULL,
  UNIQUE KEY (template_id, version),
  KEY (digest),
  FOREIGN KEY (template_id) REFERENCES templates (id) ON DELETE CASCADE,
  FOREIGN KEY (digest) REFERENCES bundles (digest)
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

-- +goose Down
DROP TABLE versions, templates, chunks, bundles, tokens, sessions, accounts;
