using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Chiton.Data.Migrations
{
    /// <inheritdoc />
    public partial class ProofsOfCopies : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<byte[]>(name: "Drawn", table: "Proofs", type: "BLOB", nullable: true);
            migrationBuilder.AddColumn<double>(name: "High", table: "Proofs", type: "REAL", nullable: false, defaultValue: 1.0);
            migrationBuilder.AddColumn<double>(name: "Low", table: "Proofs", type: "REAL", nullable: false, defaultValue: 0.0);
            migrationBuilder.AddColumn<string>(name: "Passed", table: "Proofs", type: "TEXT", nullable: false, defaultValue: "");
            migrationBuilder.AddColumn<int>(name: "Rests", table: "Proofs", type: "INTEGER", nullable: true);
            migrationBuilder.AddColumn<string>(name: "Scene", table: "Proofs", type: "TEXT", nullable: false, defaultValue: "");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            foreach (var column in new[] { "Drawn", "High", "Low", "Passed", "Rests", "Scene" })
                migrationBuilder.DropColumn(name: column, table: "Proofs");
        }
    }
}
