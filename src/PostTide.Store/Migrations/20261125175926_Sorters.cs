using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace PostTide.Store.Migrations
{
    /// <inheritdoc />
    public partial class Sorters : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "category_id",
                table: "uploads",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<long>(
                name: "sorter_id",
                table: "uploads",
                type: "bigint",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "outside_sorter",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    on = table.Column<bool>(type: "boolean", nullable: false),
                    address = table.Column<string>(type: "text", nullable: false),
                    model = table.Column<string>(type: "text", nullable: false),
                    secret = table.Column<string>(type: "text", nullable: false),
                    most_characters = table.Column<int>(type: "integer", nullable: false),
                    timeout_seconds = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_outside_sorter", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "sorters",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    asks_outside = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_sorters", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "outside_answers",
                columns: table => new
                {
                    sorter_id = table.Column<long>(type: "bigint", nullable: false),
                    message_id = table.Column<long>(type: "bigint", nullable: false),
                    category_id = table.Column<string>(type: "text", nullable: true),
                    by = table.Column<string>(type: "text", nullable: false),
                    problem = table.Column<string>(type: "text", nullable: true),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_outside_answers", x => new { x.sorter_id, x.message_id });
                    table.ForeignKey(
                        name: "fk_outside_answers_messages_message_id",
                        column: x => x.message_id,
                        principalTable: "messages",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_outside_answers_sorters_sorter_id",
                        column: x => x.sorter_id,
                        principalTable: "sorters",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "sorted_messages",
                columns: table => new
                {
                    sorter_id = table.Column<long>(type: "bigint", nullable: false),
                    message_id = table.Column<long>(type: "bigint", nullable: false),
                    number = table.Column<int>(type: "integer", nullable: false),
                    category_id = table.Column<string>(type: "text", nullable: true),
                    surety = table.Column<double>(type: "double precision", nullable: false),
                    unsure = table.Column<bool>(type: "boolean", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_sorted_messages", x => new { x.sorter_id, x.message_id });
                    table.ForeignKey(
                        name: "fk_sorted_messages_messages_message_id",
                        column: x => x.message_id,
                        principalTable: "messages",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_sorted_messages_sorters_sorter_id",
                        column: x => x.sorter_id,
                        principalTable: "sorters",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "sorter_labels",
                columns: table => new
                {
                    sorter_id = table.Column<long>(type: "bigint", nullable: false),
                    message_id = table.Column<long>(type: "bigint", nullable: false),
                    category_id = table.Column<string>(type: "text", nullable: true),
                    source = table.Column<string>(type: "text", nullable: false),
                    by = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_sorter_labels", x => new { x.sorter_id, x.message_id });
                    table.ForeignKey(
                        name: "fk_sorter_labels_messages_message_id",
                        column: x => x.message_id,
                        principalTable: "messages",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_sorter_labels_sorters_sorter_id",
                        column: x => x.sorter_id,
                        principalTable: "sorters",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "sorter_numbers",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false),
                    sorter_id = table.Column<long>(type: "bigint", nullable: false),
                    number = table.Column<int>(type: "integer", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    settings = table.Column<string>(type: "json", nullable: false),
                    revision = table.Column<int>(type: "integer", nullable: false),
                    changed_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    changed_by = table.Column<string>(type: "text", nullable: false),
                    trained_at = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    trained_on = table.Column<int>(type: "integer", nullable: false),
                    trained_in = table.Column<double>(type: "double precision", nullable: false),
                    model = table.Column<byte[]>(type: "bytea", nullable: true),
                    evaluation = table.Column<string>(type: "json", nullable: true),
                    predictions = table.Column<string>(type: "json", nullable: true),
                    problem = table.Column<string>(type: "text", nullable: true),
                    used_since = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    used_until = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_sorter_numbers", x => x.id);
                    table.ForeignKey(
                        name: "fk_sorter_numbers_sorters_sorter_id",
                        column: x => x.sorter_id,
                        principalTable: "sorters",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_outside_answers_message_id",
                table: "outside_answers",
                column: "message_id");

            migrationBuilder.CreateIndex(
                name: "ix_sorted_messages_message_id",
                table: "sorted_messages",
                column: "message_id");

            migrationBuilder.CreateIndex(
                name: "ix_sorted_messages_sorter_id_at",
                table: "sorted_messages",
                columns: new[] { "sorter_id", "at" });

            migrationBuilder.CreateIndex(
                name: "ix_sorter_labels_message_id",
                table: "sorter_labels",
                column: "message_id");

            migrationBuilder.CreateIndex(
                name: "ix_sorter_numbers_one_in_hand",
                table: "sorter_numbers",
                column: "sorter_id",
                unique: true,
                filter: "state = 'InHand'");

            migrationBuilder.CreateIndex(
                name: "ix_sorter_numbers_sorter_id_number",
                table: "sorter_numbers",
                columns: new[] { "sorter_id", "number" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_sorters_name",
                table: "sorters",
                column: "name",
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "outside_answers");

            migrationBuilder.DropTable(
                name: "outside_sorter");

            migrationBuilder.DropTable(
                name: "sorted_messages");

            migrationBuilder.DropTable(
                name: "sorter_labels");

            migrationBuilder.DropTable(
                name: "sorter_numbers");

            migrationBuilder.DropTable(
                name: "sorters");

            migrationBuilder.DropColumn(
                name: "category_id",
                table: "uploads");

            migrationBuilder.DropColumn(
                name: "sorter_id",
                table: "uploads");
        }
    }
}
