using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Kelvet.Data.Migrations
{
    /// <inheritdoc />
    public partial class WaitSince : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(name: "WaitsFrom", table: "Jobs", type: "TEXT", nullable: false, defaultValue: "");

            migrationBuilder.AddColumn<DateTime>(name: "WaitsSinceUtc", table: "Jobs", type: "TEXT", nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(name: "WaitsFrom", table: "Jobs");

            migrationBuilder.DropColumn(name: "WaitsSinceUtc", table: "Jobs");
        }
    }
}
