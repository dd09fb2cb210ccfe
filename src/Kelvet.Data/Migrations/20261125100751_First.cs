using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Kelvet.Data.Migrations
{
    /// <inheritdoc />
    public partial class First : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "Jobs",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false).Annotation("Sqlite:Autoincrement", true),
                    Number = table.Column<int>(type: "INTEGER", nullable: false),
                    Title = table.Column<string>(type: "TEXT", nullable: false),
                    Customer = table.Column<string>(type: "TEXT", nullable: false),
                    IntakeJson = table.Column<string>(type: "TEXT", nullable: false),
                    OpenedAtUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                    OpenedBy = table.Column<string>(type: "TEXT", nullable: false),
                    ClosedAtUtc = table.Column<DateTime>(type: "TEXT", nullable: true),
                    ClosedBy = table.Column<string>(type: "TEXT", nullable: false),
                    ClosingWords = table.Column<string>(type: "TEXT", nullable: false),
                    FoundUnits = table.Column<string>(type: "TEXT", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Jobs", x => x.Id);
                }
            );

            migrationBuilder.CreateTable(
                name: "Shelf",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false).Annotation("Sqlite:Autoincrement", true),
                    UnitJson = table.Column<string>(type: "TEXT", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Shelf", x => x.Id);
                }
            );

            migrationBuilder.CreateTable(
                name: "Shops",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false).Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    TimeZone = table.Column<string>(type: "TEXT", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Shops", x => x.Id);
                }
            );

            migrationBuilder.CreateTable(
                name: "Technicians",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false).Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Technicians", x => x.Id);
                }
            );

            migrationBuilder.CreateTable(
                name: "Steps",
                columns: table => new
                {
                    JobId = table.Column<int>(type: "INTEGER", nullable: false),
                    Number = table.Column<int>(type: "INTEGER", nullable: false),
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    Body = table.Column<string>(type: "TEXT", nullable: false),
                    AtUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Steps", x => new { x.JobId, x.Number });
                    table.ForeignKey(
                        name: "FK_Steps_Jobs_JobId",
                        column: x => x.JobId,
                        principalTable: "Jobs",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict
                    );
                }
            );

            migrationBuilder.CreateIndex(name: "IX_Jobs_ClosedAtUtc", table: "Jobs", column: "ClosedAtUtc");

            migrationBuilder.CreateIndex(name: "IX_Jobs_Number", table: "Jobs", column: "Number", unique: true);

            migrationBuilder.CreateIndex(name: "IX_Steps_JobId_Id", table: "Steps", columns: new[] { "JobId", "Id" }, unique: true);

            migrationBuilder.CreateIndex(name: "IX_Technicians_Name", table: "Technicians", column: "Name", unique: true);

            // The log is append-only, whoever asks.
            migrationBuilder.Sql(
                "CREATE TRIGGER Steps_NoUpdate BEFORE UPDATE ON Steps BEGIN SELECT RAISE(ABORT, 'the log is append-only'); END;"
            );
            migrationBuilder.Sql(
                "CREATE TRIGGER Steps_NoDelete BEFORE DELETE ON Steps BEGIN SELECT RAISE(ABORT, 'the log is append-only'); END;"
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(name: "Shelf");

            migrationBuilder.DropTable(name: "Shops");

            migrationBuilder.DropTable(name: "Steps");

            migrationBuilder.DropTable(name: "Technicians");

            migrationBuilder.DropTable(name: "Jobs");
        }
    }
}
