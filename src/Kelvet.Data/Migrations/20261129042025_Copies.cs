using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Kelvet.Data.Migrations
{
    /// <inheritdoc />
    public partial class Copies : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<int>(name: "CopyDays", table: "Shops", type: "INTEGER", nullable: false, defaultValue: 7);

            migrationBuilder.AddColumn<string>(name: "CopyFolder", table: "Shops", type: "TEXT", nullable: false, defaultValue: "");

            migrationBuilder.AddColumn<string>(name: "CopySealed", table: "Shops", type: "TEXT", nullable: false, defaultValue: "");

            migrationBuilder.AddColumn<int>(name: "CopyWeeks", table: "Shops", type: "INTEGER", nullable: false, defaultValue: 13);

            migrationBuilder.AddColumn<string>(name: "FoundKinds", table: "Jobs", type: "TEXT", nullable: false, defaultValue: "");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(name: "CopyDays", table: "Shops");

            migrationBuilder.DropColumn(name: "CopyFolder", table: "Shops");

            migrationBuilder.DropColumn(name: "CopySealed", table: "Shops");

            migrationBuilder.DropColumn(name: "CopyWeeks", table: "Shops");

            migrationBuilder.DropColumn(name: "FoundKinds", table: "Jobs");
        }
    }
}
