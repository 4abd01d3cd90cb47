using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chiton.Data.Migrations
{
    /// <inheritdoc />
    public partial class Lines : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "Told",
                table: "Trials",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<byte[]>(
                name: "Times",
                table: "Recordings",
                type: "BLOB",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "LineRuns",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    RigId = table.Column<string>(type: "TEXT", nullable: false),
                    Copy = table.Column<int>(type: "INTEGER", nullable: false),
                    TimeUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                    Seconds = table.Column<double>(type: "REAL", nullable: false),
                    EndedIn = table.Column<string>(type: "TEXT", nullable: false),
                    Happened = table.Column<string>(type: "TEXT", nullable: false),
                    Whole = table.Column<bool>(type: "INTEGER", nullable: false),
                    Revision = table.Column<int>(type: "INTEGER", nullable: false),
                    Holding = table.Column<string>(type: "TEXT", nullable: false),
                    FromBox = table.Column<bool>(type: "INTEGER", nullable: false),
                    Dropped = table.Column<bool>(type: "INTEGER", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_LineRuns", x => x.Id);
                    table.ForeignKey(
                        name: "FK_LineRuns_Rigs_RigId",
                        column: x => x.RigId,
                        principalTable: "Rigs",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "Lines",
                columns: table => new
                {
                    RigId = table.Column<string>(type: "TEXT", nullable: false),
                    Copy = table.Column<int>(type: "INTEGER", nullable: false),
                    To = table.Column<string>(type: "TEXT", nullable: false),
                    TimeUtc = table.Column<DateTime>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Lines", x => new { x.RigId, x.Copy });
                    table.ForeignKey(
                        name: "FK_Lines_Rigs_RigId",
                        column: x => x.RigId,
                        principalTable: "Rigs",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateIndex(
                name: "IX_LineRuns_RigId_Copy",
                table: "LineRuns",
                columns: new[] { "RigId", "Copy" });

            migrationBuilder.CreateIndex(
                name: "IX_LineRuns_RigId_Key",
                table: "LineRuns",
                columns: new[] { "RigId", "Key" },
                unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "LineRuns");

            migrationBuilder.DropTable(
                name: "Lines");

            migrationBuilder.DropColumn(
                name: "Told",
                table: "Trials");

            migrationBuilder.DropColumn(
                name: "Times",
                table: "Recordings");
        }
    }
}
