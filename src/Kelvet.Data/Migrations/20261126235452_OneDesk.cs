using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Kelvet.Data.Migrations
{
    /// <inheritdoc />
    public partial class OneDesk : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(name: "ClosedFigures", table: "Jobs", type: "TEXT", nullable: false, defaultValue: "");

            migrationBuilder.AddColumn<string>(name: "ClosedRules", table: "Jobs", type: "TEXT", nullable: false, defaultValue: "");

            migrationBuilder.AddColumn<string>(name: "TaughtJson", table: "Jobs", type: "TEXT", nullable: false, defaultValue: "");

            migrationBuilder.CreateTable(
                name: "RuleSets",
                columns: table => new
                {
                    Id = table.Column<string>(type: "TEXT", nullable: false),
                    Atlas = table.Column<string>(type: "TEXT", nullable: false),
                    Program = table.Column<string>(type: "TEXT", nullable: false),
                    OddsJson = table.Column<string>(type: "TEXT", nullable: false),
                    PreferencesJson = table.Column<string>(type: "TEXT", nullable: false),
                    SinceUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_RuleSets", x => x.Id);
                }
            );

            migrationBuilder.CreateTable(
                name: "Tallies",
                columns: table => new
                {
                    Mode = table.Column<string>(type: "TEXT", nullable: false),
                    Cases = table.Column<int>(type: "INTEGER", nullable: false),
                    Exposure = table.Column<double>(type: "REAL", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Tallies", x => x.Mode);
                }
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(name: "RuleSets");

            migrationBuilder.DropTable(name: "Tallies");

            migrationBuilder.DropColumn(name: "ClosedFigures", table: "Jobs");

            migrationBuilder.DropColumn(name: "ClosedRules", table: "Jobs");

            migrationBuilder.DropColumn(name: "TaughtJson", table: "Jobs");
        }
    }
}
