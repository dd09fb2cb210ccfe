using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Kelvet.Data.Migrations
{
    /// <inheritdoc />
    public partial class SupportLists : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(name: "SupportCsv", table: "Shops", type: "TEXT", nullable: false, defaultValue: "");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(name: "SupportCsv", table: "Shops");
        }
    }
}
