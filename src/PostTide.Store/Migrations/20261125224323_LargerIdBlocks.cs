using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace PostTide.Store.Migrations
{
    /// <inheritdoc />
    public partial class LargerIdBlocks : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AlterSequence(
                name: "EntityFrameworkHiLoSequence",
                incrementBy: 500,
                oldIncrementBy: 50);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AlterSequence(
                name: "EntityFrameworkHiLoSequence",
                incrementBy: 50,
                oldIncrementBy: 500);
        }
    }
}
