using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Kelvet.Data.Migrations
{
    /// <inheritdoc />
    public partial class Money : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<byte[]>(name: "Logo", table: "Shops", type: "BLOB", nullable: true);

            migrationBuilder.AddColumn<bool>(name: "StatePage", table: "Shops", type: "INTEGER", nullable: false, defaultValue: false);

            migrationBuilder.AddColumn<long>(name: "Charged", table: "Orders", type: "INTEGER", nullable: true);

            migrationBuilder.AddColumn<string>(name: "Repairs", table: "Orders", type: "TEXT", nullable: false, defaultValue: "");

            migrationBuilder.AddColumn<string>(name: "StateCode", table: "Jobs", type: "TEXT", nullable: false, defaultValue: "");

            migrationBuilder.AddColumn<string>(name: "TaughtModels", table: "Jobs", type: "TEXT", nullable: false, defaultValue: "");

            migrationBuilder.CreateTable(
                name: "ModelTallies",
                columns: table => new
                {
                    Model = table.Column<string>(type: "TEXT", nullable: false),
                    Failed = table.Column<int>(type: "INTEGER", nullable: false),
                    Seen = table.Column<int>(type: "INTEGER", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_ModelTallies", x => x.Model);
                }
            );

            migrationBuilder.CreateTable(
                name: "Offers",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false).Annotation("Sqlite:Autoincrement", true),
                    JobNumber = table.Column<int>(type: "INTEGER", nullable: false),
                    OfferJson = table.Column<string>(type: "TEXT", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    AtUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                    AnsweredUtc = table.Column<DateTime>(type: "TEXT", nullable: true),
                    Accepted = table.Column<string>(type: "TEXT", nullable: false),
                    Who = table.Column<string>(type: "TEXT", nullable: false),
                    How = table.Column<int>(type: "INTEGER", nullable: true),
                    TakenBy = table.Column<string>(type: "TEXT", nullable: false),
                    AnswerId = table.Column<Guid>(type: "TEXT", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Offers", x => x.Id);
                }
            );

            migrationBuilder.CreateTable(
                name: "Payments",
                columns: table => new
                {
                    Number = table.Column<int>(type: "INTEGER", nullable: false),
                    JobNumber = table.Column<int>(type: "INTEGER", nullable: false),
                    Kind = table.Column<int>(type: "INTEGER", nullable: false),
                    Amount = table.Column<string>(type: "TEXT", nullable: false),
                    How = table.Column<string>(type: "TEXT", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    AtUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                    TermsJson = table.Column<string>(type: "TEXT", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Payments", x => x.Number);
                }
            );

            migrationBuilder.CreateIndex(name: "IX_Offers_JobNumber", table: "Offers", column: "JobNumber");

            migrationBuilder.CreateIndex(name: "IX_Payments_JobNumber", table: "Payments", column: "JobNumber");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(name: "ModelTallies");

            migrationBuilder.DropTable(name: "Offers");

            migrationBuilder.DropTable(name: "Payments");

            migrationBuilder.DropColumn(name: "Logo", table: "Shops");

            migrationBuilder.DropColumn(name: "StatePage", table: "Shops");

            migrationBuilder.DropColumn(name: "Charged", table: "Orders");

            migrationBuilder.DropColumn(name: "Repairs", table: "Orders");

            migrationBuilder.DropColumn(name: "StateCode", table: "Jobs");

            migrationBuilder.DropColumn(name: "TaughtModels", table: "Jobs");
        }
    }
}
