using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Kelvet.Data.Migrations
{
    /// <inheritdoc />
    public partial class BenchAndExperience : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<int>(name: "DrainSeconds", table: "Shops", type: "INTEGER", nullable: false, defaultValue: 20);

            migrationBuilder.AddColumn<DateTime>(name: "LearnFromUtc", table: "Shops", type: "TEXT", nullable: true);

            migrationBuilder.AddColumn<string>(name: "PreferencesJson", table: "Shops", type: "TEXT", nullable: false, defaultValue: "");

            migrationBuilder.AddColumn<string>(name: "School", table: "Shops", type: "TEXT", nullable: false, defaultValue: "advisor");

            migrationBuilder.AddColumn<int>(name: "Power", table: "Jobs", type: "INTEGER", nullable: false, defaultValue: 0);

            migrationBuilder.AddColumn<DateTime>(name: "PowerSinceUtc", table: "Jobs", type: "TEXT", nullable: true);

            migrationBuilder.AddColumn<string>(name: "ProvedModes", table: "Jobs", type: "TEXT", nullable: false, defaultValue: "");

            migrationBuilder.CreateTable(
                name: "Photos",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    JobId = table.Column<int>(type: "INTEGER", nullable: false),
                    StepId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Jpeg = table.Column<byte[]>(type: "BLOB", nullable: false),
                    AtUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Photos", x => x.Id);
                }
            );

            migrationBuilder.CreateTable(
                name: "Timers",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false).Annotation("Sqlite:Autoincrement", true),
                    JobId = table.Column<int>(type: "INTEGER", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    StartedAtUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                    Seconds = table.Column<int>(type: "INTEGER", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Timers", x => x.Id);
                }
            );

            migrationBuilder.CreateIndex(name: "IX_Photos_JobId_StepId", table: "Photos", columns: new[] { "JobId", "StepId" });

            migrationBuilder.CreateIndex(name: "IX_Timers_JobId", table: "Timers", column: "JobId");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(name: "Photos");

            migrationBuilder.DropTable(name: "Timers");

            migrationBuilder.DropColumn(name: "DrainSeconds", table: "Shops");

            migrationBuilder.DropColumn(name: "LearnFromUtc", table: "Shops");

            migrationBuilder.DropColumn(name: "PreferencesJson", table: "Shops");

            migrationBuilder.DropColumn(name: "School", table: "Shops");

            migrationBuilder.DropColumn(name: "Power", table: "Jobs");

            migrationBuilder.DropColumn(name: "PowerSinceUtc", table: "Jobs");

            migrationBuilder.DropColumn(name: "ProvedModes", table: "Jobs");
        }
    }
}
