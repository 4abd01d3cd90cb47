using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chiton.Data.Migrations
{
    /// <inheritdoc />
    public partial class WholeRigs : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<bool>(
                name: "Archived",
                table: "Rigs",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "Mode",
                table: "Recordings",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<double>(
                name: "SupplyV",
                table: "Recordings",
                type: "REAL",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Preflight",
                table: "Copies",
                type: "TEXT",
                nullable: false,
                defaultValue: "{}");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "Archived",
                table: "Rigs");

            migrationBuilder.DropColumn(
                name: "Mode",
                table: "Recordings");

            migrationBuilder.DropColumn(
                name: "SupplyV",
                table: "Recordings");

            migrationBuilder.DropColumn(
                name: "Preflight",
                table: "Copies");
        }
    }
}
