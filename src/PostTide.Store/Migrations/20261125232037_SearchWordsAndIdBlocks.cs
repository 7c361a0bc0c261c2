using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace PostTide.Store.Migrations
{
    /// <inheritdoc />
    public partial class SearchWordsAndIdBlocks : Migration
    {
        /// <summary>
        /// What is there stays searchable as it was; the server cuts its words anew in the background, as the preparation has a new
        /// version. Ids come in larger blocks.
        /// </summary>
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AlterSequence(name: "EntityFrameworkHiLoSequence", incrementBy: 500, oldIncrementBy: 50);
            migrationBuilder.Sql("""
                ALTER TABLE prepared DROP COLUMN search;
                ALTER TABLE prepared ADD COLUMN words text NOT NULL DEFAULT '';
                UPDATE prepared SET words = subject || E'\n' || sender || E'\n' || attachment_names || E'\n' || new_part;
                ALTER TABLE prepared ALTER COLUMN words DROP DEFAULT, DROP COLUMN attachment_names, DROP COLUMN new_part;
                ALTER TABLE prepared ADD COLUMN search tsvector NOT NULL GENERATED ALWAYS AS (to_tsvector('simple', words)) STORED;
                CREATE INDEX ix_prepared_search ON prepared USING gin (search);
                """);
            CompressWith(migrationBuilder, "lz4", "words");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("""
                ALTER TABLE prepared DROP COLUMN search;
                ALTER TABLE prepared ADD COLUMN attachment_names text NOT NULL DEFAULT '', ADD COLUMN new_part text NOT NULL DEFAULT '';
                UPDATE prepared SET new_part = words;
                ALTER TABLE prepared DROP COLUMN words;
                ALTER TABLE prepared ADD COLUMN search tsvector NOT NULL GENERATED ALWAYS AS (
                    setweight(to_tsvector('simple', subject), 'A') || setweight(to_tsvector('simple', sender), 'B') ||
                    setweight(to_tsvector('simple', attachment_names), 'C') || setweight(to_tsvector('simple', new_part), 'D')) STORED;
                CREATE INDEX ix_prepared_search ON prepared USING gin (search);
                """);
            CompressWith(migrationBuilder, "pglz", "new_part");
            migrationBuilder.AlterSequence(name: "EntityFrameworkHiLoSequence", incrementBy: 50, oldIncrementBy: 500);
        }

        /// <summary>
        /// Long values are compressed when they are written, which for mail takes longer than anything else about them; lz4 is several
        /// times quicker. What is there stays as it is. A PostgreSQL built without lz4 goes on as before.
        /// </summary>
        private static void CompressWith(MigrationBuilder migrationBuilder, string method, string words) => migrationBuilder.Sql($"""
            DO $$
            BEGIN
                ALTER TABLE raws ALTER COLUMN bytes SET COMPRESSION {method};
                ALTER TABLE prepared ALTER COLUMN document SET COMPRESSION {method};
                ALTER TABLE prepared ALTER COLUMN {words} SET COMPRESSION {method};
                ALTER TABLE prepared ALTER COLUMN search SET COMPRESSION {method};
                ALTER TABLE plans ALTER COLUMN verdicts SET COMPRESSION {method};
            EXCEPTION WHEN feature_not_supported THEN
                RAISE NOTICE 'PostgreSQL has no %: long values are compressed as before', '{method}';
            END $$
            """);
    }
}
