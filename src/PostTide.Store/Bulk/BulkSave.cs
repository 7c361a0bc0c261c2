using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.ChangeTracking;
using Microsoft.EntityFrameworkCore.Metadata;
using Npgsql;

namespace PostTide.Store.Bulk;

/// <summary>
/// Saves many tracked changes at once with COPY, through the same mapping as every other save: one round trip for each table
/// instead of one command for each row.
/// </summary>
public static class BulkSave
{
    /// <summary>Fewer changed rows than this are left to the usual save.</summary>
    private const int FewestChanged = 8;

    /// <summary>
    /// Writes the added records, and the changed ones where there are many, in the current transaction. What is left is small and
    /// is saved by the caller's SaveChanges.
    /// </summary>
    public static async Task SaveInBulkAsync(this PostTideContext db, CancellationToken stop)
    {
        db.ChangeTracker.DetectChanges();
        var connection = (NpgsqlConnection)db.Database.GetDbConnection();
        var ours = db.ChangeTracker.Entries().Where(e => e.Metadata.ClrType.Assembly == typeof(PostTideContext).Assembly).ToList();
        foreach (var added in ours.Where(e => e.State == EntityState.Added).GroupBy(e => e.Metadata).OrderBy(g => Depth(g.Key)))
        {
            await CopyAsync(connection, Table(added.Key), Columns(added.Key).ToList(), added.ToList(), stop);
        }

        foreach (var changed in ours.Where(e => e.State == EntityState.Modified).GroupBy(e => e.Metadata))
        {
            if (changed.Count() >= FewestChanged && !changed.Key.GetProperties().Any(p => p.IsConcurrencyToken))
            {
                await UpdateAsync(connection, changed.Key, changed.ToList(), stop);
            }
        }
    }

    private static async Task CopyAsync(NpgsqlConnection connection, string table, List<IProperty> columns, List<EntityEntry> rows, CancellationToken stop)
    {
        await WriteAsync(connection, table, columns, rows, stop);
        foreach (var row in rows)
        {
            row.State = EntityState.Unchanged;
        }
    }

    private static async Task UpdateAsync(NpgsqlConnection connection, IEntityType type, List<EntityEntry> rows, CancellationToken stop)
    {
        var key = type.FindPrimaryKey()!.Properties;
        var changed = Columns(type).Where(p => !p.IsPrimaryKey() && rows.Any(r => r.Property(p).IsModified)).ToList();
        var columns = key.Concat(changed).ToList();
        var names = string.Join(", ", columns.Select(Column));
        await ExecuteAsync(connection, $"CREATE TEMP TABLE changed ON COMMIT DROP AS SELECT {names} FROM {Table(type)} WITH NO DATA", stop);
        await WriteAsync(connection, "changed", columns, rows, stop);
        var sets = string.Join(", ", changed.Select(p => $"{Column(p)} = c.{Column(p)}"));
        var matches = string.Join(" AND ", key.Select(p => $"t.{Column(p)} = c.{Column(p)}"));
        await ExecuteAsync(connection, $"UPDATE {Table(type)} t SET {sets} FROM changed c WHERE {matches}; DROP TABLE changed", stop);
        foreach (var row in rows)
        {
            row.State = EntityState.Unchanged;
        }
    }

    private static async Task WriteAsync(NpgsqlConnection connection, string table, List<IProperty> columns, List<EntityEntry> rows, CancellationToken stop)
    {
        var writers = columns.ConvertAll(p => (
            Get: p.GetGetter(), Convert: p.GetTypeMapping().Converter?.ConvertToProvider, Type: p.GetColumnType()));
        await using var copy = await connection.BeginBinaryImportAsync(
            $"COPY {table} ({string.Join(", ", columns.Select(Column))}) FROM STDIN (FORMAT BINARY)", stop);
        foreach (var row in rows)
        {
            await copy.StartRowAsync(stop);
            foreach (var (get, convert, type) in writers)
            {
                var value = get.GetClrValue(row.Entity);
                value = convert is null ? value : convert(value);
                if (value is null)
                {
                    await copy.WriteNullAsync(stop);
                }
                else
                {
                    await copy.WriteAsync(value, type, stop);
                }
            }
        }

        await copy.CompleteAsync(stop);
    }

    private static async Task ExecuteAsync(NpgsqlConnection connection, string sql, CancellationToken stop)
    {
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync(stop);
    }

    private static IEnumerable<IProperty> Columns(IEntityType type) =>
        type.GetProperties().Where(p => p.ValueGenerated is not (ValueGenerated.OnAddOrUpdate or ValueGenerated.OnUpdate) && p.GetComputedColumnSql() is null);

    private static string Column(IProperty property) => $"\"{property.GetColumnName()}\"";

    private static string Table(IEntityType type) => $"\"{type.GetTableName()}\"";

    /// <summary>How many tables a table's records may point through; what is pointed at is written first.</summary>
    private static int Depth(IEntityType type) =>
        type.GetForeignKeys().Where(k => k.PrincipalEntityType != type).Select(k => 1 + Depth(k.PrincipalEntityType)).DefaultIfEmpty(0).Max();
}
