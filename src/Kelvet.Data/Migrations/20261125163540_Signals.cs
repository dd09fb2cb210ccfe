using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Kelvet.Data.Migrations
{
    /// <inheritdoc />
    public partial class Signals : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "Captures",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false).Annotation("Sqlite:Autoincrement", true),
                    JobId = table.Column<int>(type: "INTEGER", nullable: false),
                    StepId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Source = table.Column<string>(type: "TEXT", nullable: false),
                    Text = table.Column<string>(type: "TEXT", nullable: false),
                    AtUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Captures", x => x.Id);
                }
            );

            migrationBuilder.CreateTable(
                name: "Makers",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false).Annotation("Sqlite:Autoincrement", true),
                    Maker = table.Column<string>(type: "TEXT", nullable: false),
                    Tables = table.Column<string>(type: "TEXT", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Makers", x => x.Id);
                }
            );

            migrationBuilder.CreateTable(
                name: "Readers",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false).Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Kind = table.Column<int>(type: "INTEGER", nullable: false),
                    Address = table.Column<string>(type: "TEXT", nullable: false),
                    Baud = table.Column<int>(type: "INTEGER", nullable: false),
                    JobNumber = table.Column<int>(type: "INTEGER", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Readers", x => x.Id);
                }
            );

            migrationBuilder.CreateTable(
                name: "SignalTables",
                columns: table => new
                {
                    Id = table.Column<string>(type: "TEXT", nullable: false),
                    Text = table.Column<string>(type: "TEXT", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_SignalTables", x => x.Id);
                }
            );

            migrationBuilder.CreateIndex(name: "IX_Captures_JobId_StepId", table: "Captures", columns: new[] { "JobId", "StepId" });

            migrationBuilder.CreateIndex(name: "IX_Makers_Maker", table: "Makers", column: "Maker", unique: true);

            migrationBuilder.CreateIndex(name: "IX_Readers_Name", table: "Readers", column: "Name", unique: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(name: "Captures");

            migrationBuilder.DropTable(name: "Makers");

            migrationBuilder.DropTable(name: "Readers");

            migrationBuilder.DropTable(name: "SignalTables");
        }
    }
}
