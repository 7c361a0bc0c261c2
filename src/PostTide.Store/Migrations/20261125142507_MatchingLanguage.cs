using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace PostTide.Store.Migrations
{
    /// <inheritdoc />
    public partial class MatchingLanguage : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<bool>(
                name: "endings",
                table: "keyword_lists",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<bool>(
                name: "same_accents",
                table: "keyword_lists",
                type: "boolean",
                nullable: false,
                defaultValue: true);

            migrationBuilder.AddColumn<bool>(
                name: "same_case",
                table: "keyword_lists",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<bool>(
                name: "whole_words",
                table: "keyword_lists",
                type: "boolean",
                nullable: false,
                defaultValue: true);

            migrationBuilder.CreateTable(
                name: "desk_hours",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    zone = table.Column<string>(type: "text", nullable: false),
                    from = table.Column<string>(type: "text", nullable: false),
                    until = table.Column<string>(type: "text", nullable: false),
                    days = table.Column<int[]>(type: "integer[]", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_desk_hours", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "kept_examples",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    workflow_id = table.Column<long>(type: "bigint", nullable: false),
                    message_id = table.Column<long>(type: "bigint", nullable: false),
                    expected = table.Column<string>(type: "json", nullable: false),
                    kept_by = table.Column<string>(type: "text", nullable: false),
                    kept_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_kept_examples", x => x.id);
                    table.ForeignKey(
                        name: "fk_kept_examples_messages_message_id",
                        column: x => x.message_id,
                        principalTable: "messages",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_kept_examples_workflows_workflow_id",
                        column: x => x.workflow_id,
                        principalTable: "workflows",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "saved_conditions",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    description = table.Column<string>(type: "text", nullable: false),
                    set = table.Column<string>(type: "json", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_saved_conditions", x => x.id);
                });

            migrationBuilder.CreateIndex(
                name: "ix_kept_examples_message_id",
                table: "kept_examples",
                column: "message_id");

            migrationBuilder.CreateIndex(
                name: "ix_kept_examples_workflow_id_message_id",
                table: "kept_examples",
                columns: new[] { "workflow_id", "message_id" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_saved_conditions_name",
                table: "saved_conditions",
                column: "name",
                unique: true);

            // A cell of a line holds several deeds: what was one is now a list of one.
            migrationBuilder.Sql(
                """
                UPDATE editions SET sheet = jsonb_set(sheet::jsonb, '{lines}', COALESCE((
                    SELECT jsonb_agg((line - 'queue' - 'files' - 'reply' - 'passOn') || jsonb_build_object(
                        'queues', CASE WHEN jsonb_typeof(line->'queue') = 'object' THEN jsonb_build_array(line->'queue') ELSE '[]'::jsonb END,
                        'files', CASE WHEN jsonb_typeof(line->'files') = 'object' THEN jsonb_build_array(line->'files') ELSE '[]'::jsonb END,
                        'replies', CASE WHEN jsonb_typeof(line->'reply') = 'object' THEN jsonb_build_array(line->'reply') ELSE '[]'::jsonb END,
                        'passOns', CASE WHEN jsonb_typeof(line->'passOn') = 'object' THEN jsonb_build_array(line->'passOn') ELSE '[]'::jsonb END) ORDER BY n)
                    FROM jsonb_array_elements(sheet::jsonb->'lines') WITH ORDINALITY AS lines(line, n)), '[]'::jsonb))::json
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "desk_hours");

            migrationBuilder.DropTable(
                name: "kept_examples");

            migrationBuilder.DropTable(
                name: "saved_conditions");

            migrationBuilder.DropColumn(
                name: "endings",
                table: "keyword_lists");

            migrationBuilder.DropColumn(
                name: "same_accents",
                table: "keyword_lists");

            migrationBuilder.DropColumn(
                name: "same_case",
                table: "keyword_lists");

            migrationBuilder.DropColumn(
                name: "whole_words",
                table: "keyword_lists");
        }
    }
}
