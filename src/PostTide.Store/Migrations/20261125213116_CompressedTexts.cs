using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace PostTide.Store.Migrations
{
    /// <inheritdoc />
    public partial class CompressedTexts : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder) => Compress(migrationBuilder, "lz4");

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder) => Compress(migrationBuilder, "pglz");

        /// <summary>
        /// Long values are compressed when they are written, which for mail takes longer than anything else about them; lz4 is several
        /// times quicker. What is there stays as it is. A PostgreSQL built without lz4 goes on as before.
        /// </summary>
        private static void Compress(MigrationBuilder migrationBuilder, string method) => migrationBuilder.Sql($"""
            DO $$
            BEGIN
                ALTER TABLE raws ALTER COLUMN bytes SET COMPRESSION {method};
                ALTER TABLE prepared ALTER COLUMN document SET COMPRESSION {method};
                ALTER TABLE prepared ALTER COLUMN new_part SET COMPRESSION {method};
                ALTER TABLE prepared ALTER COLUMN search SET COMPRESSION {method};
                ALTER TABLE plans ALTER COLUMN verdicts SET COMPRESSION {method};
            EXCEPTION WHEN feature_not_supported THEN
                RAISE NOTICE 'PostgreSQL has no %: long values are compressed as before', '{method}';
            END $$
            """);
    }
}
