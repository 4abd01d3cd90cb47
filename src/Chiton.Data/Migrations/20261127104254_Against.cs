using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chiton.Data.Migrations
{
    /// <inheritdoc />
    public partial class Against : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<double>(
                name: "AgainstMm",
                table: "Accepted",
                type: "REAL",
                nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "AgainstMm",
                table: "Accepted");
        }
    }
}
