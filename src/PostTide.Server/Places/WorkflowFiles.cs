using System.Collections.Immutable;
using System.Security.Claims;
using System.Text;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Filing;
using PostTide.Core.Formats;
using PostTide.Core.Workflows;
using PostTide.Engine;
using PostTide.Engine.Deeds;
using PostTide.Engine.Planning;
using PostTide.Engine.Rehearsals;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Server.Places;

/// <summary>A workflow document to be brought in.</summary>
/// <param name="Yaml">The document.</param>
/// <param name="Replace">Whether keyword lists, templates and saved conditions that stand here with other content take over that of the document.</param>
public sealed record ImportRequest(string Yaml, bool Replace);

/// <summary>What bringing in a document would do.</summary>
/// <param name="Name">The workflow's name; null when the document cannot be read.</param>
/// <param name="WorkflowId">The workflow of that name here; null when it would be begun.</param>
/// <param name="Problems">What is wrong, by line; with any that blocks, nothing can be brought in.</param>
/// <param name="Changes">What would change against the edition that stands here.</param>
/// <param name="New">Lists, templates and saved conditions that would be made.</param>
/// <param name="Different">Those that stand here with other content: kept as they are, or replaced if asked.</param>
/// <param name="Examples">How many kept examples name messages that are here.</param>
public sealed record ImportPreview(
    string? Name, long? WorkflowId, ImmutableArray<DocumentProblem> Problems, ImmutableArray<SheetChange> Changes, IReadOnlyList<string> New, IReadOnlyList<string> Different,
    int Examples);

/// <summary>A Sieve script to be made a workflow document, and the workflow's name.</summary>
public sealed record SieveRequest(string Script, string Name);

/// <summary>A Sieve script as a workflow document, and what of it has no counterpart; no document when it cannot be read.</summary>
public sealed record SieveImport(string? Yaml, ImmutableArray<DocumentProblem> Notes);

/// <summary>Workflows as documents: taken out and brought in.</summary>
internal static class WorkflowFiles
{
    public static void MapWorkflowFiles(this RouteGroupBuilder api)
    {
        var group = api.MapGroup("/workflows").WithTags("Workflows");
        group.MapGet("/{id:long}/file", ExportAsync);
        group.MapGet("/{id:long}/sieve", SieveAsync);
        var builder = group.MapGroup("").RequireAuthorization(Permissions.Builder);
        builder.MapPost("/import/preview", PreviewAsync);
        builder.MapPost("/import", ImportAsync);
        builder.MapPost("/import/sieve", ReadSieve);
    }

    private static async Task<IResult> ExportAsync(long id, PostTideContext db, PlanningSetup setup, WorkflowHelp help, CancellationToken stop)
    {
        var document = await DocumentAsync(id, db, setup, help, stop);
        return Results.File(Encoding.UTF8.GetBytes(YamlText.Write(document)), "application/yaml", SafeName.File(document.Name + ".workflow.yaml"));
    }

    private static async Task<SieveExport> SieveAsync(long id, PostTideContext db, PlanningSetup setup, WorkflowHelp help, CancellationToken stop) =>
        SieveWriter.Write(await DocumentAsync(id, db, setup, help, stop));

    private static SieveImport ReadSieve(SieveRequest request)
    {
        var (document, notes) = SieveReader.Read(request.Script, request.Name);
        return new SieveImport(document is null ? null : YamlText.Write(document), notes);
    }

    private static async Task<WorkflowDocument> DocumentAsync(long id, PostTideContext db, PlanningSetup setup, WorkflowHelp help, CancellationToken stop)
    {
        var workflow = await db.Workflows.AsNoTracking().SingleOrDefaultAsync(w => w.Id == id, stop) ?? throw new RefusedException("This workflow is gone.");
        var (examples, sheet) = await help.ExamplesAsync(db, id, stop);
        var descriptions = await db.KeywordLists.AsNoTracking().ToDictionaryAsync(k => k.Name, k => k.Description, stop);
        return DocumentWriter.Write(workflow.Name, sheet, (await setup.ReadAsync(db, stop)).Context, examples.Select(e => e.Example), descriptions);
    }

    private static async Task<ImportPreview> PreviewAsync(ImportRequest request, PostTideContext db, PlanningSetup setup, CancellationToken stop)
    {
        var context = (await setup.ReadAsync(db, stop)).Context;
        var import = WorkflowImport.Read(request.Yaml, context);
        if (import.File.Document is not { } document)
        {
            return new ImportPreview(null, null, import.File.Problems, [], [], [], 0);
        }

        var existing = await FindAsync(db, document.Name, stop);
        var current = existing?.Editions.OrderBy(e => e.State).FirstOrDefault()?.Sheet ?? Sheet.Empty;
        var ids = document.Examples.Select(e => e.MessageId).ToArray();
        return new ImportPreview(
            document.Name, existing?.Id, import.File.Problems, import.File.Sheet is { } sheet ? EditionComparison.Between(current, sheet, import.Context) : [],
            import.New, import.Different, await db.Messages.Where(m => ids.Contains(m.MailId)).Select(m => m.MailId).Distinct().CountAsync(stop));
    }

    private static async Task<Named> ImportAsync(
        ImportRequest request, PostTideContext db, PlanningSetup setup, TimeProvider clock, ClaimsPrincipal user, CancellationToken stop)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var before = WorkflowImport.Read(request.Yaml, (await setup.ReadAsync(db, stop)).Context);
        if (before.File.Document is not { } document || before.File.Problems.Any(p => p.Blocks))
        {
            var first = before.File.Problems.First(p => p.Blocks);
            throw new RefusedException($"Nothing was brought in: line {first.Line}: {first.Text}");
        }

        await WorkflowImport.AddRecordsAsync(db, document, request.Replace, stop);
        var sheet = WorkflowFile.Read(request.Yaml, DocumentNames.Of((await setup.ReadAsync(db, stop)).Context), (await setup.ReadAsync(db, stop)).Context).Sheet!;
        var workflow = await FindAsync(db, document.Name, stop);
        if (workflow is null)
        {
            workflow = new Workflow { Name = document.Name, Position = await db.Workflows.CountAsync(stop) };
            db.Workflows.Add(workflow);
        }

        var inHand = workflow.Editions.FirstOrDefault(e => e.State == EditionState.InHand);
        if (inHand is null)
        {
            inHand = new WorkflowEdition { Number = workflow.Editions.Select(e => e.Number).DefaultIfEmpty().Max() + 1, State = EditionState.InHand, Sheet = sheet };
            workflow.Editions.Add(inHand);
        }

        inHand.Sheet = sheet;
        inHand.Revision++;
        (inHand.ChangedAt, inHand.ChangedBy) = (clock.GetUtcNow(), user.DisplayName());
        await db.SaveChangesAsync(stop);
        await WorkflowImport.AddExamplesAsync(db, workflow.Id, document, user.DisplayName(), clock.GetUtcNow(), stop);
        db.Audit.Add(new AuditEntry { At = clock.GetUtcNow(), Person = user.DisplayName(), What = $"Brought in “{workflow.Name}” as edition {inHand.Number}" });
        await db.SaveChangesAsync(stop);
        await db.NotifyAsync(Changes.Workflows, Changes.Setup);
        await transaction.CommitAsync(stop);
        return new Named(workflow.Id, workflow.Name);
    }

    private static Task<Workflow?> FindAsync(PostTideContext db, string name, CancellationToken stop) =>
        db.Workflows.Include(w => w.Editions).OrderBy(w => w.Id).FirstOrDefaultAsync(w => w.Name == name, stop);
}
