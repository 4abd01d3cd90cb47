using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chiton.Data.Migrations
{
    /// <inheritdoc />
    public partial class Silences : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "Silences",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false).Annotation("Sqlite:Autoincrement", true),
                    RigId = table.Column<string>(type: "TEXT", nullable: false),
                    Copy = table.Column<int>(type: "INTEGER", nullable: false),
                    Finding = table.Column<string>(type: "TEXT", nullable: false),
                    Said = table.Column<string>(type: "TEXT", nullable: false),
                    Reason = table.Column<string>(type: "TEXT", nullable: false),
                    TimeUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Silences", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Silences_Rigs_RigId",
                        column: x => x.RigId,
                        principalTable: "Rigs",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict
                    );
                }
            );
            migrationBuilder.CreateIndex(
                name: "IX_Silences_RigId_Copy_Finding",
                table: "Silences",
                columns: new[] { "RigId", "Copy", "Finding" },
                unique: true
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder) => migrationBuilder.DropTable(name: "Silences");
    }
}
