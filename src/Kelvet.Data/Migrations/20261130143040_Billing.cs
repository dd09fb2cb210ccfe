using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Kelvet.Data.Migrations
{
    /// <inheritdoc />
    public partial class Billing : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(name: "BillingJson", table: "Shops", type: "TEXT", nullable: false, defaultValue: "");

            migrationBuilder.CreateTable(
                name: "Invoices",
                columns: table => new
                {
                    Number = table.Column<int>(type: "INTEGER", nullable: false),
                    JobNumber = table.Column<int>(type: "INTEGER", nullable: false),
                    IssuedUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    BillJson = table.Column<string>(type: "TEXT", nullable: false),
                    TermsJson = table.Column<string>(type: "TEXT", nullable: false),
                    Credits = table.Column<int>(type: "INTEGER", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Invoices", x => x.Number);
                }
            );

            migrationBuilder.CreateIndex(name: "IX_Invoices_Credits", table: "Invoices", column: "Credits", unique: true);

            migrationBuilder.CreateIndex(name: "IX_Invoices_JobNumber", table: "Invoices", column: "JobNumber");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(name: "Invoices");

            migrationBuilder.DropColumn(name: "BillingJson", table: "Shops");
        }
    }
}
