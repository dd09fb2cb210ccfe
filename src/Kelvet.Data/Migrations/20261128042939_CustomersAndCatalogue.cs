using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Kelvet.Data.Migrations
{
    /// <inheritdoc />
    public partial class CustomersAndCatalogue : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(name: "Why", table: "Shelf", type: "TEXT", nullable: false, defaultValue: "");

            migrationBuilder.AddColumn<int>(name: "CustomerId", table: "Jobs", type: "INTEGER", nullable: true);

            migrationBuilder.AddColumn<string>(name: "DropOffJson", table: "Jobs", type: "TEXT", nullable: false, defaultValue: "");

            migrationBuilder.AddColumn<DateTime>(name: "DueUtc", table: "Jobs", type: "TEXT", nullable: true);

            migrationBuilder.AddColumn<DateTime>(name: "HandedOverUtc", table: "Jobs", type: "TEXT", nullable: true);

            migrationBuilder.AddColumn<string>(name: "Holder", table: "Jobs", type: "TEXT", nullable: false, defaultValue: "");

            migrationBuilder.AddColumn<int>(name: "MachineId", table: "Jobs", type: "INTEGER", nullable: true);

            migrationBuilder.AddColumn<bool>(name: "NotReproduced", table: "Jobs", type: "INTEGER", nullable: false, defaultValue: false);

            migrationBuilder.AddColumn<DateTime>(name: "PromisedUtc", table: "Jobs", type: "TEXT", nullable: true);

            migrationBuilder.AddColumn<string>(name: "Search", table: "Jobs", type: "TEXT", nullable: false, defaultValue: "");

            migrationBuilder.AddColumn<int>(name: "Wait", table: "Jobs", type: "INTEGER", nullable: false, defaultValue: 0);

            migrationBuilder.AddColumn<string>(name: "WaitsFor", table: "Jobs", type: "TEXT", nullable: false, defaultValue: "");

            migrationBuilder.CreateTable(
                name: "Catalogue",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false).Annotation("Sqlite:Autoincrement", true),
                    Kind = table.Column<string>(type: "TEXT", nullable: false),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Key = table.Column<string>(type: "TEXT", nullable: false),
                    UnitJson = table.Column<string>(type: "TEXT", nullable: false),
                    Price = table.Column<long>(type: "INTEGER", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Catalogue", x => x.Id);
                }
            );

            migrationBuilder.CreateTable(
                name: "Customers",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false).Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Phone = table.Column<string>(type: "TEXT", nullable: false),
                    Email = table.Column<string>(type: "TEXT", nullable: false),
                    Reach = table.Column<string>(type: "TEXT", nullable: false),
                    Search = table.Column<string>(type: "TEXT", nullable: false),
                    SinceUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Customers", x => x.Id);
                }
            );

            migrationBuilder.CreateTable(
                name: "Machines",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false).Annotation("Sqlite:Autoincrement", true),
                    CustomerId = table.Column<int>(type: "INTEGER", nullable: true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Serial = table.Column<string>(type: "TEXT", nullable: false),
                    Mark = table.Column<string>(type: "TEXT", nullable: false),
                    IntakeJson = table.Column<string>(type: "TEXT", nullable: false),
                    IsTemplate = table.Column<bool>(type: "INTEGER", nullable: false),
                    ChangedUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Machines", x => x.Id);
                }
            );

            migrationBuilder.CreateTable(
                name: "ShelfUses",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false).Annotation("Sqlite:Autoincrement", true),
                    ShelfId = table.Column<int>(type: "INTEGER", nullable: false),
                    JobNumber = table.Column<int>(type: "INTEGER", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_ShelfUses", x => x.Id);
                }
            );

            migrationBuilder.CreateIndex(name: "IX_Jobs_CustomerId", table: "Jobs", column: "CustomerId");

            migrationBuilder.CreateIndex(name: "IX_Jobs_MachineId", table: "Jobs", column: "MachineId");

            migrationBuilder.CreateIndex(name: "IX_Catalogue_Kind_Key", table: "Catalogue", columns: new[] { "Kind", "Key" }, unique: true);

            migrationBuilder.CreateIndex(name: "IX_Machines_CustomerId", table: "Machines", column: "CustomerId");

            migrationBuilder.CreateIndex(name: "IX_Machines_Serial", table: "Machines", column: "Serial");

            migrationBuilder.CreateIndex(
                name: "IX_ShelfUses_ShelfId_JobNumber",
                table: "ShelfUses",
                columns: new[] { "ShelfId", "JobNumber" }
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(name: "Catalogue");

            migrationBuilder.DropTable(name: "Customers");

            migrationBuilder.DropTable(name: "Machines");

            migrationBuilder.DropTable(name: "ShelfUses");

            migrationBuilder.DropIndex(name: "IX_Jobs_CustomerId", table: "Jobs");

            migrationBuilder.DropIndex(name: "IX_Jobs_MachineId", table: "Jobs");

            migrationBuilder.DropColumn(name: "Why", table: "Shelf");

            migrationBuilder.DropColumn(name: "CustomerId", table: "Jobs");

            migrationBuilder.DropColumn(name: "DropOffJson", table: "Jobs");

            migrationBuilder.DropColumn(name: "DueUtc", table: "Jobs");

            migrationBuilder.DropColumn(name: "HandedOverUtc", table: "Jobs");

            migrationBuilder.DropColumn(name: "Holder", table: "Jobs");

            migrationBuilder.DropColumn(name: "MachineId", table: "Jobs");

            migrationBuilder.DropColumn(name: "NotReproduced", table: "Jobs");

            migrationBuilder.DropColumn(name: "PromisedUtc", table: "Jobs");

            migrationBuilder.DropColumn(name: "Search", table: "Jobs");

            migrationBuilder.DropColumn(name: "Wait", table: "Jobs");

            migrationBuilder.DropColumn(name: "WaitsFor", table: "Jobs");
        }
    }
}
