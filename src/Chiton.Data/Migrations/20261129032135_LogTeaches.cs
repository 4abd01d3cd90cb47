using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chiton.Data.Migrations
{
    /// <inheritdoc />
    public partial class LogTeaches : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<int>(
                name: "Came",
                table: "Accepted",
                type: "INTEGER",
                nullable: false,
                // What was accepted until now was measured.
                defaultValue: 3);

            migrationBuilder.AddColumn<int>(
                name: "Narrowed",
                table: "Accepted",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.CreateTable(
                name: "LogMappings",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Columns = table.Column<string>(type: "TEXT", nullable: false),
                    TimeUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                    Document = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_LogMappings", x => x.Id);
                });

            migrationBuilder.CreateIndex(
                name: "IX_LogMappings_Columns",
                table: "LogMappings",
                column: "Columns",
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "LogMappings");

            migrationBuilder.DropColumn(
                name: "Came",
                table: "Accepted");

            migrationBuilder.DropColumn(
                name: "Narrowed",
                table: "Accepted");
        }
    }
}
