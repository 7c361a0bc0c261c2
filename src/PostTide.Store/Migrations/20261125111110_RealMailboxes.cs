using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace PostTide.Store.Migrations
{
    /// <inheritdoc />
    public partial class RealMailboxes : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(
                name: "ix_deeds_message_id_workflow_id_kind_target",
                table: "deeds");

            migrationBuilder.AddColumn<string>(
                name: "connecting_host",
                table: "messages",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "moved_to",
                table: "messages",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "old",
                table: "messages",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "released_by",
                table: "messages",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "run_id",
                table: "messages",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "sender_check",
                table: "messages",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "taken_at",
                table: "messages",
                type: "timestamp with time zone",
                nullable: false,
                defaultValue: new DateTimeOffset(new DateTime(1, 1, 1, 0, 0, 0, 0, DateTimeKind.Unspecified), new TimeSpan(0, 0, 0, 0, 0)));

            migrationBuilder.AddColumn<string>(
                name: "approval",
                table: "mailboxes",
                type: "json",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "may_have_begun",
                table: "deeds",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<int>(
                name: "repeat",
                table: "deeds",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<long>(
                name: "run_id",
                table: "deeds",
                type: "bigint",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "name",
                table: "addresses",
                type: "text",
                nullable: false,
                defaultValue: "");

            migrationBuilder.CreateTable(
                name: "connections",
                columns: table => new
                {
                    mailbox_id = table.Column<long>(type: "bigint", nullable: false),
                    host = table.Column<string>(type: "text", nullable: false),
                    port = table.Column<int>(type: "integer", nullable: false),
                    tls = table.Column<string>(type: "text", nullable: false),
                    user = table.Column<string>(type: "text", nullable: false),
                    protected_password = table.Column<string>(type: "text", nullable: false),
                    folder = table.Column<string>(type: "text", nullable: false),
                    since = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    old_mail = table.Column<string>(type: "text", nullable: false),
                    mark_read = table.Column<bool>(type: "boolean", nullable: false),
                    pace_minutes = table.Column<int>(type: "integer", nullable: false),
                    hours = table.Column<string>(type: "json", nullable: true),
                    cap = table.Column<int>(type: "integer", nullable: true),
                    paused = table.Column<bool>(type: "boolean", nullable: false),
                    revision = table.Column<int>(type: "integer", nullable: false),
                    connected_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    uid_validity = table.Column<long>(type: "bigint", nullable: false),
                    last_uid = table.Column<long>(type: "bigint", nullable: false),
                    first_new_uid = table.Column<long>(type: "bigint", nullable: false),
                    recognise_up_to = table.Column<long>(type: "bigint", nullable: false),
                    last_look_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    next_look_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    behind = table.Column<int>(type: "integer", nullable: false),
                    pushed = table.Column<bool>(type: "boolean", nullable: false),
                    failures = table.Column<int>(type: "integer", nullable: false),
                    problem = table.Column<string>(type: "text", nullable: true),
                    problem_detail = table.Column<string>(type: "text", nullable: true),
                    problem_since = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_connections", x => x.mailbox_id);
                    table.ForeignKey(
                        name: "fk_connections_mailboxes_mailbox_id",
                        column: x => x.mailbox_id,
                        principalTable: "mailboxes",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "runs",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    mailbox_id = table.Column<long>(type: "bigint", nullable: true),
                    workflow_id = table.Column<long>(type: "bigint", nullable: true),
                    edition = table.Column<int>(type: "integer", nullable: true),
                    person = table.Column<string>(type: "text", nullable: true),
                    started_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    ended_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    looked_at = table.Column<int>(type: "integer", nullable: false),
                    carried_over = table.Column<int>(type: "integer", nullable: false),
                    choice = table.Column<string>(type: "text", nullable: false),
                    send_replies = table.Column<bool>(type: "boolean", nullable: false),
                    problem = table.Column<string>(type: "text", nullable: true),
                    detail = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_runs", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "uploads",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    mailbox_id = table.Column<long>(type: "bigint", nullable: false),
                    person = table.Column<string>(type: "text", nullable: false),
                    started_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    size = table.Column<long>(type: "bigint", nullable: false),
                    received = table.Column<long>(type: "bigint", nullable: false),
                    carry_out = table.Column<bool>(type: "boolean", nullable: false),
                    looked_at = table.Column<int>(type: "integer", nullable: false),
                    taken = table.Column<int>(type: "integer", nullable: false),
                    duplicates = table.Column<int>(type: "integer", nullable: false),
                    refused = table.Column<string>(type: "json", nullable: false),
                    problem = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_uploads", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "run_messages",
                columns: table => new
                {
                    run_id = table.Column<long>(type: "bigint", nullable: false),
                    number = table.Column<int>(type: "integer", nullable: false),
                    message_id = table.Column<long>(type: "bigint", nullable: true),
                    source = table.Column<string>(type: "text", nullable: false),
                    outcome = table.Column<string>(type: "text", nullable: false),
                    because = table.Column<string>(type: "text", nullable: true),
                    again = table.Column<string[]>(type: "text[]", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_run_messages", x => new { x.run_id, x.number });
                    table.ForeignKey(
                        name: "fk_run_messages_runs_run_id",
                        column: x => x.run_id,
                        principalTable: "runs",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "run_skips",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    run_id = table.Column<long>(type: "bigint", nullable: false),
                    message_id = table.Column<long>(type: "bigint", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    says = table.Column<string>(type: "text", nullable: false),
                    because = table.Column<string>(type: "text", nullable: false),
                    deed_id = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_run_skips", x => x.id);
                    table.ForeignKey(
                        name: "fk_run_skips_runs_run_id",
                        column: x => x.run_id,
                        principalTable: "runs",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_messages_held",
                table: "messages",
                column: "arrived_at",
                filter: "state = 'Held'");

            migrationBuilder.CreateIndex(
                name: "ix_messages_run_id",
                table: "messages",
                column: "run_id",
                filter: "run_id IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_deeds_message_id_workflow_id_kind_target_repeat",
                table: "deeds",
                columns: new[] { "message_id", "workflow_id", "kind", "target", "repeat" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_deeds_run_id",
                table: "deeds",
                column: "run_id",
                filter: "run_id IS NOT NULL");

            migrationBuilder.CreateIndex(
                name: "ix_run_messages_run_id_message_id",
                table: "run_messages",
                columns: new[] { "run_id", "message_id" });

            migrationBuilder.CreateIndex(
                name: "ix_run_skips_run_id",
                table: "run_skips",
                column: "run_id");

            migrationBuilder.CreateIndex(
                name: "ix_runs_mailbox_id_started_at",
                table: "runs",
                columns: new[] { "mailbox_id", "started_at" });

            migrationBuilder.CreateIndex(
                name: "ix_runs_started_at_id",
                table: "runs",
                columns: new[] { "started_at", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_runs_state",
                table: "runs",
                column: "state",
                filter: "state = 'Running'");

            migrationBuilder.Sql("UPDATE messages SET taken_at = arrived_at");

            // A burst of mail is merged into the full-text index afterwards; until then it is found by reading the list of what is new (in kB).
            migrationBuilder.Sql("ALTER INDEX ix_prepared_search SET (gin_pending_list_limit = 16384)");

            // Large values are packed with the quicker of the two methods, where this PostgreSQL has it.
            migrationBuilder.Sql(
                """
                DO $$
                BEGIN
                    ALTER TABLE raws ALTER COLUMN bytes SET COMPRESSION lz4;
                    ALTER TABLE prepared ALTER COLUMN document SET COMPRESSION lz4;
                    ALTER TABLE plans ALTER COLUMN verdicts SET COMPRESSION lz4;
                EXCEPTION WHEN feature_not_supported OR invalid_parameter_value THEN
                    NULL;
                END
                $$
                """);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "connections");

            migrationBuilder.DropTable(
                name: "run_messages");

            migrationBuilder.DropTable(
                name: "run_skips");

            migrationBuilder.DropTable(
                name: "uploads");

            migrationBuilder.DropTable(
                name: "runs");

            migrationBuilder.DropIndex(
                name: "ix_messages_held",
                table: "messages");

            migrationBuilder.DropIndex(
                name: "ix_messages_run_id",
                table: "messages");

            migrationBuilder.DropIndex(
                name: "ix_deeds_message_id_workflow_id_kind_target_repeat",
                table: "deeds");

            migrationBuilder.DropIndex(
                name: "ix_deeds_run_id",
                table: "deeds");

            migrationBuilder.DropColumn(
                name: "connecting_host",
                table: "messages");

            migrationBuilder.DropColumn(
                name: "moved_to",
                table: "messages");

            migrationBuilder.DropColumn(
                name: "old",
                table: "messages");

            migrationBuilder.DropColumn(
                name: "released_by",
                table: "messages");

            migrationBuilder.DropColumn(
                name: "run_id",
                table: "messages");

            migrationBuilder.DropColumn(
                name: "sender_check",
                table: "messages");

            migrationBuilder.DropColumn(
                name: "taken_at",
                table: "messages");

            migrationBuilder.DropColumn(
                name: "approval",
                table: "mailboxes");

            migrationBuilder.DropColumn(
                name: "may_have_begun",
                table: "deeds");

            migrationBuilder.DropColumn(
                name: "repeat",
                table: "deeds");

            migrationBuilder.DropColumn(
                name: "run_id",
                table: "deeds");

            migrationBuilder.DropColumn(
                name: "name",
                table: "addresses");

            migrationBuilder.CreateIndex(
                name: "ix_deeds_message_id_workflow_id_kind_target",
                table: "deeds",
                columns: new[] { "message_id", "workflow_id", "kind", "target" },
                unique: true);
        }
    }
}
