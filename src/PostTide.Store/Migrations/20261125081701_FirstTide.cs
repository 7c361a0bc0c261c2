using System;
using Microsoft.EntityFrameworkCore.Migrations;
using NpgsqlTypes;

#nullable disable

namespace PostTide.Store.Migrations
{
    /// <inheritdoc />
    public partial class FirstTide : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AlterDatabase()
                .Annotation("Npgsql:PostgresExtension:pg_trgm", ",,");

            migrationBuilder.CreateSequence(
                name: "EntityFrameworkHiLoSequence",
                incrementBy: 50);

            migrationBuilder.CreateSequence(
                name: "ticket_number",
                startValue: 1001L);

            migrationBuilder.CreateTable(
                name: "audit_log",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    person = table.Column<string>(type: "text", nullable: false),
                    what = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_audit_log", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "conversation_ids",
                columns: table => new
                {
                    mail_id = table.Column<string>(type: "text", nullable: false),
                    conversation = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_conversation_ids", x => x.mail_id);
                });

            migrationBuilder.CreateTable(
                name: "destinations",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    url = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_destinations", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "do_not_mail",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    address_or_domain = table.Column<string>(type: "text", nullable: false),
                    added_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_do_not_mail", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "files",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    folder = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    sha256 = table.Column<string>(type: "text", nullable: false),
                    size = table.Column<long>(type: "bigint", nullable: false),
                    declared_type = table.Column<string>(type: "text", nullable: false),
                    message_id = table.Column<long>(type: "bigint", nullable: false),
                    deed_id = table.Column<long>(type: "bigint", nullable: true),
                    filed_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_files", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "keyword_lists",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    description = table.Column<string>(type: "text", nullable: false),
                    words = table.Column<string[]>(type: "text[]", nullable: false),
                    revision = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_keyword_lists", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "mailboxes",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_mailboxes", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "people",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    display_name = table.Column<string>(type: "text", nullable: false),
                    user_name = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    normalized_user_name = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    email = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    normalized_email = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    email_confirmed = table.Column<bool>(type: "boolean", nullable: false),
                    password_hash = table.Column<string>(type: "text", nullable: true),
                    security_stamp = table.Column<string>(type: "text", nullable: true),
                    concurrency_stamp = table.Column<string>(type: "text", nullable: true),
                    phone_number = table.Column<string>(type: "text", nullable: true),
                    phone_number_confirmed = table.Column<bool>(type: "boolean", nullable: false),
                    two_factor_enabled = table.Column<bool>(type: "boolean", nullable: false),
                    lockout_end = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    lockout_enabled = table.Column<bool>(type: "boolean", nullable: false),
                    access_failed_count = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_people", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "queues",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    position = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_queues", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "raws",
                columns: table => new
                {
                    sha256 = table.Column<string>(type: "text", nullable: false),
                    bytes = table.Column<byte[]>(type: "bytea", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_raws", x => x.sha256);
                });

            migrationBuilder.CreateTable(
                name: "roles",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    normalized_name = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    concurrency_stamp = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_roles", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "templates",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    body = table.Column<string>(type: "text", nullable: false),
                    attachment_name = table.Column<string>(type: "text", nullable: true),
                    attachment_sha256 = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_templates", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "tickets",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    number = table.Column<long>(type: "bigint", nullable: false),
                    reference = table.Column<string>(type: "text", nullable: false),
                    label = table.Column<string>(type: "text", nullable: false),
                    priority = table.Column<string>(type: "text", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    summary = table.Column<string>(type: "text", nullable: false),
                    description = table.Column<string>(type: "text", nullable: false),
                    requester_name = table.Column<string>(type: "text", nullable: false),
                    requester_address = table.Column<string>(type: "text", nullable: false),
                    opened_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    changed_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    closed_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    message_id = table.Column<long>(type: "bigint", nullable: false),
                    conversation_id = table.Column<long>(type: "bigint", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_tickets", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "workflows",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    position = table.Column<int>(type: "integer", nullable: false),
                    paused = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_workflows", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "addresses",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    mailbox_id = table.Column<long>(type: "bigint", nullable: false),
                    address = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_addresses", x => x.id);
                    table.ForeignKey(
                        name: "fk_addresses_mailboxes_mailbox_id",
                        column: x => x.mailbox_id,
                        principalTable: "mailboxes",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "people_claims",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false),
                    user_id = table.Column<long>(type: "bigint", nullable: false),
                    claim_type = table.Column<string>(type: "text", nullable: true),
                    claim_value = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_people_claims", x => x.id);
                    table.ForeignKey(
                        name: "fk_people_claims_people_user_id",
                        column: x => x.user_id,
                        principalTable: "people",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "people_logins",
                columns: table => new
                {
                    login_provider = table.Column<string>(type: "text", nullable: false),
                    provider_key = table.Column<string>(type: "text", nullable: false),
                    provider_display_name = table.Column<string>(type: "text", nullable: true),
                    user_id = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_people_logins", x => new { x.login_provider, x.provider_key });
                    table.ForeignKey(
                        name: "fk_people_logins_people_user_id",
                        column: x => x.user_id,
                        principalTable: "people",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "people_tokens",
                columns: table => new
                {
                    user_id = table.Column<long>(type: "bigint", nullable: false),
                    login_provider = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    value = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_people_tokens", x => new { x.user_id, x.login_provider, x.name });
                    table.ForeignKey(
                        name: "fk_people_tokens_people_user_id",
                        column: x => x.user_id,
                        principalTable: "people",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "messages",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    mailbox_id = table.Column<long>(type: "bigint", nullable: false),
                    source_key = table.Column<string>(type: "text", nullable: false),
                    raw_sha256 = table.Column<string>(type: "text", nullable: false),
                    size = table.Column<long>(type: "bigint", nullable: false),
                    arrived_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    envelope_from = table.Column<string>(type: "text", nullable: true),
                    envelope_to = table.Column<string[]>(type: "text[]", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    problem = table.Column<string>(type: "text", nullable: true),
                    planned_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    mail_id = table.Column<string>(type: "text", nullable: false),
                    conversation_id = table.Column<long>(type: "bigint", nullable: true),
                    duplicate_of_id = table.Column<long>(type: "bigint", nullable: true),
                    sender_name = table.Column<string>(type: "text", nullable: false),
                    sender_address = table.Column<string>(type: "text", nullable: false),
                    subject = table.Column<string>(type: "text", nullable: false),
                    attachment_count = table.Column<int>(type: "integer", nullable: false),
                    automatic = table.Column<string>(type: "text", nullable: true),
                    taken_in = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_messages", x => x.id);
                    table.ForeignKey(
                        name: "fk_messages_mailboxes_mailbox_id",
                        column: x => x.mailbox_id,
                        principalTable: "mailboxes",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_messages_raws_raw_sha256",
                        column: x => x.raw_sha256,
                        principalTable: "raws",
                        principalColumn: "sha256",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "people_roles",
                columns: table => new
                {
                    user_id = table.Column<long>(type: "bigint", nullable: false),
                    role_id = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_people_roles", x => new { x.user_id, x.role_id });
                    table.ForeignKey(
                        name: "fk_people_roles_people_user_id",
                        column: x => x.user_id,
                        principalTable: "people",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_people_roles_roles_role_id",
                        column: x => x.role_id,
                        principalTable: "roles",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "role_claims",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false),
                    role_id = table.Column<long>(type: "bigint", nullable: false),
                    claim_type = table.Column<string>(type: "text", nullable: true),
                    claim_value = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_role_claims", x => x.id);
                    table.ForeignKey(
                        name: "fk_role_claims_roles_role_id",
                        column: x => x.role_id,
                        principalTable: "roles",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "editions",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    workflow_id = table.Column<long>(type: "bigint", nullable: false),
                    number = table.Column<int>(type: "integer", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    sheet = table.Column<string>(type: "json", nullable: false),
                    revision = table.Column<int>(type: "integer", nullable: false),
                    changed_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    changed_by = table.Column<string>(type: "text", nullable: false),
                    live_since = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    live_until = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_editions", x => x.id);
                    table.ForeignKey(
                        name: "fk_editions_workflows_workflow_id",
                        column: x => x.workflow_id,
                        principalTable: "workflows",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "deeds",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    key = table.Column<Guid>(type: "uuid", nullable: false),
                    message_id = table.Column<long>(type: "bigint", nullable: false),
                    workflow_id = table.Column<long>(type: "bigint", nullable: true),
                    edition = table.Column<int>(type: "integer", nullable: true),
                    line_id = table.Column<string>(type: "text", nullable: true),
                    kind = table.Column<string>(type: "text", nullable: false),
                    target = table.Column<string>(type: "text", nullable: false),
                    says = table.Column<string>(type: "text", nullable: false),
                    content = table.Column<string>(type: "json", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    because = table.Column<string>(type: "text", nullable: true),
                    attempts = table.Column<int>(type: "integer", nullable: false),
                    created_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    not_before = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    done_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_deeds", x => x.id);
                    table.ForeignKey(
                        name: "fk_deeds_messages_message_id",
                        column: x => x.message_id,
                        principalTable: "messages",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "items",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    queue_id = table.Column<long>(type: "bigint", nullable: false),
                    message_id = table.Column<long>(type: "bigint", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    placed_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    due_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    waits_until = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    done_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    taken_by_id = table.Column<long>(type: "bigint", nullable: true),
                    xmin = table.Column<uint>(type: "xid", rowVersion: true, nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_items", x => x.id);
                    table.ForeignKey(
                        name: "fk_items_messages_message_id",
                        column: x => x.message_id,
                        principalTable: "messages",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_items_queues_queue_id",
                        column: x => x.queue_id,
                        principalTable: "queues",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "fk_items_users_taken_by_id",
                        column: x => x.taken_by_id,
                        principalTable: "people",
                        principalColumn: "id");
                });

            migrationBuilder.CreateTable(
                name: "plans",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    message_id = table.Column<long>(type: "bigint", nullable: false),
                    current = table.Column<bool>(type: "boolean", nullable: false),
                    planned_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    prepared_version = table.Column<int>(type: "integer", nullable: false),
                    verdicts = table.Column<string>(type: "json", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_plans", x => x.id);
                    table.ForeignKey(
                        name: "fk_plans_messages_message_id",
                        column: x => x.message_id,
                        principalTable: "messages",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "prepared",
                columns: table => new
                {
                    message_id = table.Column<long>(type: "bigint", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false),
                    document = table.Column<string>(type: "json", nullable: false),
                    arrived_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    subject = table.Column<string>(type: "text", nullable: false),
                    sender = table.Column<string>(type: "text", nullable: false),
                    attachment_names = table.Column<string>(type: "text", nullable: false),
                    new_part = table.Column<string>(type: "text", nullable: false),
                    search = table.Column<NpgsqlTsVector>(type: "tsvector", nullable: false, computedColumnSql: "setweight(to_tsvector('simple', subject), 'A') || setweight(to_tsvector('simple', sender), 'B') || setweight(to_tsvector('simple', attachment_names), 'C') || setweight(to_tsvector('simple', new_part), 'D')", stored: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_prepared", x => x.message_id);
                    table.ForeignKey(
                        name: "fk_prepared_messages_message_id",
                        column: x => x.message_id,
                        principalTable: "messages",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "deed_history",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    deed_id = table.Column<long>(type: "bigint", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    note = table.Column<string>(type: "text", nullable: true),
                    person = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_deed_history", x => x.id);
                    table.ForeignKey(
                        name: "fk_deed_history_deeds_deed_id",
                        column: x => x.deed_id,
                        principalTable: "deeds",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "replies",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    deed_id = table.Column<long>(type: "bigint", nullable: false),
                    message_id = table.Column<long>(type: "bigint", nullable: false),
                    from = table.Column<string>(type: "text", nullable: false),
                    to = table.Column<string>(type: "text", nullable: false),
                    subject = table.Column<string>(type: "text", nullable: false),
                    body = table.Column<string>(type: "text", nullable: false),
                    mail_id = table.Column<string>(type: "text", nullable: false),
                    in_reply_to = table.Column<string>(type: "text", nullable: true),
                    references = table.Column<string[]>(type: "text[]", nullable: false),
                    template_name = table.Column<string>(type: "text", nullable: false),
                    automatic = table.Column<bool>(type: "boolean", nullable: false),
                    attachment_name = table.Column<string>(type: "text", nullable: true),
                    attachment_sha256 = table.Column<string>(type: "text", nullable: true),
                    uncertain = table.Column<bool>(type: "boolean", nullable: false),
                    checked_by = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_replies", x => x.id);
                    table.ForeignKey(
                        name: "fk_replies_deeds_deed_id",
                        column: x => x.deed_id,
                        principalTable: "deeds",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "entries",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    item_id = table.Column<long>(type: "bigint", nullable: true),
                    ticket_id = table.Column<long>(type: "bigint", nullable: true),
                    kind = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    person = table.Column<string>(type: "text", nullable: true),
                    text = table.Column<string>(type: "text", nullable: false),
                    message_id = table.Column<long>(type: "bigint", nullable: true),
                    deed_id = table.Column<long>(type: "bigint", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_entries", x => x.id);
                    table.ForeignKey(
                        name: "fk_entries_items_item_id",
                        column: x => x.item_id,
                        principalTable: "items",
                        principalColumn: "id");
                    table.ForeignKey(
                        name: "fk_entries_tickets_ticket_id",
                        column: x => x.ticket_id,
                        principalTable: "tickets",
                        principalColumn: "id");
                });

            migrationBuilder.CreateIndex(
                name: "ix_addresses_address",
                table: "addresses",
                column: "address",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_addresses_mailbox_id",
                table: "addresses",
                column: "mailbox_id");

            migrationBuilder.CreateIndex(
                name: "ix_conversation_ids_conversation",
                table: "conversation_ids",
                column: "conversation");

            migrationBuilder.CreateIndex(
                name: "ix_deed_history_deed_id",
                table: "deed_history",
                column: "deed_id");

            migrationBuilder.CreateIndex(
                name: "ix_deeds_created_at",
                table: "deeds",
                column: "created_at");

            migrationBuilder.CreateIndex(
                name: "ix_deeds_key",
                table: "deeds",
                column: "key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_deeds_message_id_workflow_id_kind_target",
                table: "deeds",
                columns: new[] { "message_id", "workflow_id", "kind", "target" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_deeds_state_created_at",
                table: "deeds",
                columns: new[] { "state", "created_at" },
                filter: "state NOT IN ('Done', 'Skipped', 'Dropped')");

            migrationBuilder.CreateIndex(
                name: "ix_deeds_workflow_id_kind_target_created_at",
                table: "deeds",
                columns: new[] { "workflow_id", "kind", "target", "created_at" },
                filter: "kind = 'Reply'");

            migrationBuilder.CreateIndex(
                name: "ix_destinations_name",
                table: "destinations",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_do_not_mail_address_or_domain",
                table: "do_not_mail",
                column: "address_or_domain",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_editions_one_in_hand",
                table: "editions",
                column: "workflow_id",
                unique: true,
                filter: "state = 'InHand'");

            migrationBuilder.CreateIndex(
                name: "ix_editions_workflow_id_number",
                table: "editions",
                columns: new[] { "workflow_id", "number" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_entries_item_id",
                table: "entries",
                column: "item_id");

            migrationBuilder.CreateIndex(
                name: "ix_entries_ticket_id",
                table: "entries",
                column: "ticket_id");

            migrationBuilder.CreateIndex(
                name: "ix_files_folder_name",
                table: "files",
                columns: new[] { "folder", "name" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_files_message_id",
                table: "files",
                column: "message_id");

            migrationBuilder.CreateIndex(
                name: "ix_items_message_id",
                table: "items",
                column: "message_id");

            migrationBuilder.CreateIndex(
                name: "ix_items_queue_id_due_at",
                table: "items",
                columns: new[] { "queue_id", "due_at" },
                filter: "state <> 'Done'");

            migrationBuilder.CreateIndex(
                name: "ix_items_taken_by_id",
                table: "items",
                column: "taken_by_id");

            migrationBuilder.CreateIndex(
                name: "ix_keyword_lists_name",
                table: "keyword_lists",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_messages_arrived_at_id",
                table: "messages",
                columns: new[] { "arrived_at", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_messages_conversation_id",
                table: "messages",
                column: "conversation_id");

            migrationBuilder.CreateIndex(
                name: "ix_messages_mailbox_id_mail_id",
                table: "messages",
                columns: new[] { "mailbox_id", "mail_id" });

            migrationBuilder.CreateIndex(
                name: "ix_messages_mailbox_id_source_key",
                table: "messages",
                columns: new[] { "mailbox_id", "source_key" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_messages_raw_sha256",
                table: "messages",
                column: "raw_sha256");

            migrationBuilder.CreateIndex(
                name: "ix_messages_sender_address_arrived_at",
                table: "messages",
                columns: new[] { "sender_address", "arrived_at" });

            migrationBuilder.CreateIndex(
                name: "ix_messages_unplanned",
                table: "messages",
                column: "id",
                filter: "state = 'Arrived'");

            migrationBuilder.CreateIndex(
                name: "EmailIndex",
                table: "people",
                column: "normalized_email");

            migrationBuilder.CreateIndex(
                name: "UserNameIndex",
                table: "people",
                column: "normalized_user_name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_people_claims_user_id",
                table: "people_claims",
                column: "user_id");

            migrationBuilder.CreateIndex(
                name: "ix_people_logins_user_id",
                table: "people_logins",
                column: "user_id");

            migrationBuilder.CreateIndex(
                name: "ix_people_roles_role_id",
                table: "people_roles",
                column: "role_id");

            migrationBuilder.CreateIndex(
                name: "ix_plans_one_current",
                table: "plans",
                column: "message_id",
                unique: true,
                filter: "current");

            migrationBuilder.CreateIndex(
                name: "ix_prepared_arrived_at",
                table: "prepared",
                column: "arrived_at");

            migrationBuilder.CreateIndex(
                name: "ix_prepared_search",
                table: "prepared",
                column: "search")
                .Annotation("Npgsql:IndexMethod", "gin");

            migrationBuilder.CreateIndex(
                name: "ix_prepared_sender",
                table: "prepared",
                column: "sender")
                .Annotation("Npgsql:IndexMethod", "gin")
                .Annotation("Npgsql:IndexOperators", new[] { "gin_trgm_ops" });

            migrationBuilder.CreateIndex(
                name: "ix_prepared_subject",
                table: "prepared",
                column: "subject")
                .Annotation("Npgsql:IndexMethod", "gin")
                .Annotation("Npgsql:IndexOperators", new[] { "gin_trgm_ops" });

            migrationBuilder.CreateIndex(
                name: "ix_queues_name",
                table: "queues",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_replies_deed_id",
                table: "replies",
                column: "deed_id",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_replies_mail_id",
                table: "replies",
                column: "mail_id",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_replies_message_id",
                table: "replies",
                column: "message_id");

            migrationBuilder.CreateIndex(
                name: "ix_role_claims_role_id",
                table: "role_claims",
                column: "role_id");

            migrationBuilder.CreateIndex(
                name: "RoleNameIndex",
                table: "roles",
                column: "normalized_name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_templates_name",
                table: "templates",
                column: "name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_tickets_conversation_id",
                table: "tickets",
                column: "conversation_id");

            migrationBuilder.CreateIndex(
                name: "ix_tickets_number",
                table: "tickets",
                column: "number",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_tickets_reference",
                table: "tickets",
                column: "reference",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_tickets_state_changed_at",
                table: "tickets",
                columns: new[] { "state", "changed_at" });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "addresses");

            migrationBuilder.DropTable(
                name: "audit_log");

            migrationBuilder.DropTable(
                name: "conversation_ids");

            migrationBuilder.DropTable(
                name: "deed_history");

            migrationBuilder.DropTable(
                name: "destinations");

            migrationBuilder.DropTable(
                name: "do_not_mail");

            migrationBuilder.DropTable(
                name: "editions");

            migrationBuilder.DropTable(
                name: "entries");

            migrationBuilder.DropTable(
                name: "files");

            migrationBuilder.DropTable(
                name: "keyword_lists");

            migrationBuilder.DropTable(
                name: "people_claims");

            migrationBuilder.DropTable(
                name: "people_logins");

            migrationBuilder.DropTable(
                name: "people_roles");

            migrationBuilder.DropTable(
                name: "people_tokens");

            migrationBuilder.DropTable(
                name: "plans");

            migrationBuilder.DropTable(
                name: "prepared");

            migrationBuilder.DropTable(
                name: "replies");

            migrationBuilder.DropTable(
                name: "role_claims");

            migrationBuilder.DropTable(
                name: "templates");

            migrationBuilder.DropTable(
                name: "workflows");

            migrationBuilder.DropTable(
                name: "items");

            migrationBuilder.DropTable(
                name: "tickets");

            migrationBuilder.DropTable(
                name: "deeds");

            migrationBuilder.DropTable(
                name: "roles");

            migrationBuilder.DropTable(
                name: "queues");

            migrationBuilder.DropTable(
                name: "people");

            migrationBuilder.DropTable(
                name: "messages");

            migrationBuilder.DropTable(
                name: "mailboxes");

            migrationBuilder.DropTable(
                name: "raws");

            migrationBuilder.DropSequence(
                name: "EntityFrameworkHiLoSequence");

            migrationBuilder.DropSequence(
                name: "ticket_number");
        }
    }
}
