using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chiton.Data.Migrations
{
    /// <inheritdoc />
    public partial class Units : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<bool>(
                name: "AsksKind",
                table: "Copies",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<long>(
                name: "UnitId",
                table: "Copies",
                type: "INTEGER",
                nullable: false,
                defaultValue: 0L);

            migrationBuilder.CreateTable(
                name: "Units",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    Label = table.Column<string>(type: "TEXT", nullable: false),
                    Kind = table.Column<int>(type: "INTEGER", nullable: false),
                    HeldRig = table.Column<string>(type: "TEXT", nullable: true),
                    HeldRevision = table.Column<int>(type: "INTEGER", nullable: true),
                    HeldHash = table.Column<string>(type: "TEXT", nullable: false),
                    HeldCalibrations = table.Column<string>(type: "TEXT", nullable: false),
                    HeldUtc = table.Column<DateTime>(type: "TEXT", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Units", x => x.Id);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Copies_UnitId",
                table: "Copies",
                column: "UnitId");

            // Each copy gets a unit of its own, under its own row's number; what its controller held goes there.
            migrationBuilder.Sql(
                """
                INSERT INTO Units (Id, Label, Kind, HeldRig, HeldRevision, HeldHash, HeldCalibrations)
                SELECT rowid, '', 0, CASE WHEN ControllerRevision IS NULL THEN NULL ELSE RigId END, ControllerRevision, '', '' FROM Copies;
                UPDATE Copies SET UnitId = rowid;
                """
            );

            migrationBuilder.DropColumn(
                name: "ControllerRevision",
                table: "Copies");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "Units");

            migrationBuilder.DropIndex(
                name: "IX_Copies_UnitId",
                table: "Copies");

            migrationBuilder.DropColumn(
                name: "AsksKind",
                table: "Copies");

            migrationBuilder.DropColumn(
                name: "UnitId",
                table: "Copies");

            migrationBuilder.AddColumn<int>(
                name: "ControllerRevision",
                table: "Copies",
                type: "INTEGER",
                nullable: true);
        }
    }
}
