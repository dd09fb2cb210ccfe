using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Kelvet.Data.Migrations
{
    /// <inheritdoc />
    public partial class Stock : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(name: "Position", table: "Shelf", type: "TEXT", nullable: false, defaultValue: "");

            migrationBuilder.AddColumn<int>(name: "ReorderAt", table: "Shelf", type: "INTEGER", nullable: true);

            migrationBuilder.CreateTable(
                name: "Orders",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false).Annotation("Sqlite:Autoincrement", true),
                    JobNumber = table.Column<int>(type: "INTEGER", nullable: true),
                    UnitJson = table.Column<string>(type: "TEXT", nullable: false),
                    Needs = table.Column<string>(type: "TEXT", nullable: false),
                    Why = table.Column<string>(type: "TEXT", nullable: false),
                    Supplier = table.Column<string>(type: "TEXT", nullable: false),
                    Price = table.Column<long>(type: "INTEGER", nullable: true),
                    Pieces = table.Column<int>(type: "INTEGER", nullable: false),
                    Expected = table.Column<DateOnly>(type: "TEXT", nullable: true),
                    State = table.Column<int>(type: "INTEGER", nullable: false),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    AtUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                    ArrivedUtc = table.Column<DateTime>(type: "TEXT", nullable: true),
                    ArrivalId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Wrong = table.Column<string>(type: "TEXT", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Orders", x => x.Id);
                }
            );

            migrationBuilder.CreateTable(
                name: "PartMoves",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false).Annotation("Sqlite:Autoincrement", true),
                    ShelfId = table.Column<int>(type: "INTEGER", nullable: false),
                    Kind = table.Column<int>(type: "INTEGER", nullable: false),
                    Pieces = table.Column<int>(type: "INTEGER", nullable: false),
                    JobNumber = table.Column<int>(type: "INTEGER", nullable: true),
                    By = table.Column<string>(type: "TEXT", nullable: false),
                    AtUtc = table.Column<DateTime>(type: "TEXT", nullable: false),
                    Note = table.Column<string>(type: "TEXT", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_PartMoves", x => x.Id);
                    table.ForeignKey(
                        name: "FK_PartMoves_Shelf_ShelfId",
                        column: x => x.ShelfId,
                        principalTable: "Shelf",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict
                    );
                }
            );

            migrationBuilder.CreateTable(
                name: "Suppliers",
                columns: table => new
                {
                    Id = table.Column<int>(type: "INTEGER", nullable: false).Annotation("Sqlite:Autoincrement", true),
                    Name = table.Column<string>(type: "TEXT", nullable: false),
                    Email = table.Column<string>(type: "TEXT", nullable: false),
                    Phone = table.Column<string>(type: "TEXT", nullable: false),
                    ReturnDays = table.Column<int>(type: "INTEGER", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Suppliers", x => x.Id);
                }
            );

            migrationBuilder.CreateIndex(name: "IX_Orders_JobNumber", table: "Orders", column: "JobNumber");

            migrationBuilder.CreateIndex(name: "IX_Orders_State", table: "Orders", column: "State");

            migrationBuilder.CreateIndex(name: "IX_PartMoves_ShelfId", table: "PartMoves", column: "ShelfId");

            migrationBuilder.CreateIndex(name: "IX_Suppliers_Name", table: "Suppliers", column: "Name", unique: true);

            // What lies on the shelf was put there once; when, and by whom, nobody wrote down.
            migrationBuilder.Sql(
                """
                INSERT INTO PartMoves (ShelfId, Kind, Pieces, JobNumber, By, AtUtc, Note)
                SELECT Id, 0, Quantity, NULL, '', '2000-01-01 00:00:00', 'before moves were written down' FROM Shelf WHERE Quantity > 0;
                INSERT INTO PartMoves (ShelfId, Kind, Pieces, JobNumber, By, AtUtc, Note)
                SELECT ShelfId, 3, 1, JobNumber, '', '2000-01-01 00:00:00', 'before moves were written down' FROM ShelfUses;
                """
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(name: "Orders");

            migrationBuilder.DropTable(name: "PartMoves");

            migrationBuilder.DropTable(name: "Suppliers");

            migrationBuilder.DropColumn(name: "Position", table: "Shelf");

            migrationBuilder.DropColumn(name: "ReorderAt", table: "Shelf");
        }
    }
}
