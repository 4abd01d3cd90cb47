using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chiton.Data.Migrations
{
    /// <inheritdoc />
    public partial class OwnRows : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.RenameColumn(
                name: "Calibrations",
                table: "Runs",
                newName: "Inputs");

            migrationBuilder.AddColumn<byte[]>(
                name: "Report",
                table: "Runs",
                type: "BLOB",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "Accepted",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    RigId = table.Column<string>(type: "TEXT", nullable: false),
                    Copy = table.Column<int>(type: "INTEGER", nullable: false),
                    Motion = table.Column<string>(type: "TEXT", nullable: false),
                    TimeUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                    Value = table.Column<double>(type: "REAL", nullable: false),
                    MeanSd = table.Column<double>(type: "REAL", nullable: false),
                    MoveSd = table.Column<double>(type: "REAL", nullable: false),
                    Trials = table.Column<int>(type: "INTEGER", nullable: false),
                    For = table.Column<double>(type: "REAL", nullable: false),
                    Second = table.Column<double>(type: "REAL", nullable: true),
                    SecondSd = table.Column<double>(type: "REAL", nullable: false),
                    SecondMoveSd = table.Column<double>(type: "REAL", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Accepted", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Accepted_Rigs_RigId",
                        column: x => x.RigId,
                        principalTable: "Rigs",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "Found",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    RigId = table.Column<string>(type: "TEXT", nullable: false),
                    Copy = table.Column<int>(type: "INTEGER", nullable: false),
                    Mechanism = table.Column<string>(type: "TEXT", nullable: false),
                    Position = table.Column<string>(type: "TEXT", nullable: false),
                    Angle = table.Column<double>(type: "REAL", nullable: false),
                    Origin = table.Column<int>(type: "INTEGER", nullable: false),
                    TimeUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                    Who = table.Column<string>(type: "TEXT", nullable: false),
                    Conditions = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Found", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Found_Rigs_RigId",
                        column: x => x.RigId,
                        principalTable: "Rigs",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "Motions",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    RigId = table.Column<string>(type: "TEXT", nullable: false),
                    Copy = table.Column<int>(type: "INTEGER", nullable: false),
                    Motion = table.Column<string>(type: "TEXT", nullable: false),
                    Version = table.Column<int>(type: "INTEGER", nullable: false),
                    TimeUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                    What = table.Column<string>(type: "TEXT", nullable: false),
                    Trials = table.Column<string>(type: "TEXT", nullable: false),
                    Accepted = table.Column<long>(type: "INTEGER", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Motions", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Motions_Rigs_RigId",
                        column: x => x.RigId,
                        principalTable: "Rigs",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "Positions",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    RigId = table.Column<string>(type: "TEXT", nullable: false),
                    Copy = table.Column<int>(type: "INTEGER", nullable: false),
                    Mechanism = table.Column<string>(type: "TEXT", nullable: false),
                    Version = table.Column<int>(type: "INTEGER", nullable: false),
                    TimeUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                    What = table.Column<string>(type: "TEXT", nullable: false),
                    Found = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Positions", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Positions_Rigs_RigId",
                        column: x => x.RigId,
                        principalTable: "Rigs",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateTable(
                name: "Trials",
                columns: table => new
                {
                    Id = table.Column<long>(type: "INTEGER", nullable: false)
                        .Annotation("Sqlite:Autoincrement", true),
                    RigId = table.Column<string>(type: "TEXT", nullable: false),
                    Copy = table.Column<int>(type: "INTEGER", nullable: false),
                    Motion = table.Column<string>(type: "TEXT", nullable: false),
                    Asked = table.Column<double>(type: "REAL", nullable: false),
                    Commanded = table.Column<double>(type: "REAL", nullable: false),
                    Measured = table.Column<double>(type: "REAL", nullable: false),
                    Origin = table.Column<int>(type: "INTEGER", nullable: false),
                    TimeUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                    Who = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Trials", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Trials_Rigs_RigId",
                        column: x => x.RigId,
                        principalTable: "Rigs",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Accepted_RigId_Copy",
                table: "Accepted",
                columns: new[] { "RigId", "Copy" });

            migrationBuilder.CreateIndex(
                name: "IX_Found_RigId_Copy",
                table: "Found",
                columns: new[] { "RigId", "Copy" });

            migrationBuilder.CreateIndex(
                name: "IX_Motions_RigId_Copy_Motion_Version",
                table: "Motions",
                columns: new[] { "RigId", "Copy", "Motion", "Version" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Positions_RigId_Copy_Mechanism_Version",
                table: "Positions",
                columns: new[] { "RigId", "Copy", "Mechanism", "Version" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "IX_Trials_RigId_Copy",
                table: "Trials",
                columns: new[] { "RigId", "Copy" });
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "Accepted");

            migrationBuilder.DropTable(
                name: "Found");

            migrationBuilder.DropTable(
                name: "Motions");

            migrationBuilder.DropTable(
                name: "Positions");

            migrationBuilder.DropTable(
                name: "Trials");

            migrationBuilder.DropColumn(
                name: "Report",
                table: "Runs");

            migrationBuilder.RenameColumn(
                name: "Inputs",
                table: "Runs",
                newName: "Calibrations");
        }
    }
}
