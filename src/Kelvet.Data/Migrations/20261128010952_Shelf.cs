using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Kelvet.Data.Migrations
{
    /// <inheritdoc />
    public partial class Shelf : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<int>(name: "Condition", table: "Shelf", type: "INTEGER", nullable: false, defaultValue: 0);

            migrationBuilder.AddColumn<DateTime>(name: "ProvedUtc", table: "Shelf", type: "TEXT", nullable: true);

            migrationBuilder.AddColumn<int>(name: "Quantity", table: "Shelf", type: "INTEGER", nullable: false, defaultValue: 1);

            migrationBuilder.AddColumn<bool>(name: "Retired", table: "Shelf", type: "INTEGER", nullable: false, defaultValue: false);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(name: "Condition", table: "Shelf");

            migrationBuilder.DropColumn(name: "ProvedUtc", table: "Shelf");

            migrationBuilder.DropColumn(name: "Quantity", table: "Shelf");

            migrationBuilder.DropColumn(name: "Retired", table: "Shelf");
        }
    }
}
