using Microsoft.EntityFrameworkCore;
using PostTide.Core.Matching;
using PostTide.Core.Workflows;
using PostTide.Engine.Deeds;
using PostTide.Engine.Planning;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Server.Places;

/// <summary>A queue as set up.</summary>
public sealed record QueueSetup(long Id, string Name);

/// <summary>A keyword list, its words, and how they are compared.</summary>
public sealed record KeywordListSetup(long Id, string Name, string Description, IReadOnlyList<string> Words, KeywordOptions Options);

/// <summary>A saved condition.</summary>
public sealed record SavedConditionSetup(long Id, string Name, string Description, ConditionSet Set);

/// <summary>The time zone of the desk and its business hours: ISO days, 1 for Monday to 7.</summary>
public sealed record DeskHoursSetup(string Zone, string From, string Until, IReadOnlyList<int> Days);

/// <summary>The tests that go with a part of a message, the usual one first.</summary>
public sealed record PartSetup(MessagePart Part, IReadOnlyList<MatchTest> Tests);

/// <summary>A template of replies.</summary>
public sealed record TemplateSetup(long Id, string Name, string Body, string? AttachmentName);

/// <summary>A sorter with the categories it would sort into, for choosing on a sheet.</summary>
public sealed record SorterSetup(long Id, string Name, bool InUse, IReadOnlyList<SorterCategorySetup> Categories);

/// <summary>A category of a sorter.</summary>
public sealed record SorterCategorySetup(string Id, string Name);

/// <summary>A destination.</summary>
public sealed record DestinationSetup(long Id, string Name, string Url);

/// <summary>The do-not-mail list, one address or domain each.</summary>
public sealed record DoNotMailSetup(IReadOnlyList<string> Entries);

/// <summary>A person and what they may do.</summary>
public sealed record PersonRow(string Name, string Email, IReadOnlyList<string> Permissions);

/// <summary>A line of the audit log.</summary>
public sealed record AuditRow(DateTimeOffset At, string Person, string What);

/// <summary>Everything that can be set up, and everything that can be chosen elsewhere.</summary>
public sealed record SetupView(
    IReadOnlyList<MailboxSetup> Mailboxes, IReadOnlyList<QueueSetup> Queues, IReadOnlyList<KeywordListSetup> KeywordLists,
    IReadOnlyList<TemplateSetup> Templates, IReadOnlyList<DestinationSetup> Destinations, DoNotMailSetup DoNotMail,
    IReadOnlyList<PersonRow> People, IReadOnlyList<AuditRow> Log, IReadOnlyList<string> Facts,
    IReadOnlyList<SavedConditionSetup> SavedConditions, DeskHoursSetup DeskHours, IReadOnlyList<PartSetup> Parts,
    IReadOnlyList<SorterSetup> Sorters);

/// <summary>Setup: queues, keyword lists, templates, destinations, the do-not-mail list.</summary>
internal static class SetupPlace
{
    private const long LargestAttachment = 10_000_000;
    private const int LongestWord = 200;

    public static void MapSetup(this RouteGroupBuilder api)
    {
        var group = api.MapGroup("/setup").WithTags("Setup");
        group.MapGet("", ReadAsync);
        var keeper = group.MapGroup("").RequireAuthorization(Permissions.Keeper);
        keeper.MapPut("/queues/{id:long}", SaveQueueAsync).AddEndpointFilter<Validated<QueueSetup>>();
        keeper.MapDelete("/queues/{id:long}", (long id, Saver saver, CancellationToken stop) => saver.RemoveAsync<Queue>(id, "queue", stop));
        keeper.MapPut("/destinations/{id:long}", SaveDestinationAsync).AddEndpointFilter<Validated<DestinationSetup>>();
        keeper.MapDelete("/destinations/{id:long}", (long id, Saver saver, CancellationToken stop) => saver.RemoveAsync<Destination>(id, "destination", stop));
        keeper.MapPut("/desk-hours", SaveDeskHoursAsync).AddEndpointFilter<Validated<DeskHoursSetup>>();
        keeper.MapPut("/do-not-mail", SaveDoNotMailAsync).AddEndpointFilter<Validated<DoNotMailSetup>>();
        var builder = group.MapGroup("").RequireAuthorization(Permissions.Builder);
        builder.MapPut("/keyword-lists/{id:long}", SaveKeywordListAsync).AddEndpointFilter<Validated<KeywordListSetup>>();
        builder.MapDelete("/keyword-lists/{id:long}", (long id, Saver saver, CancellationToken stop) => saver.RemoveAsync<KeywordListRecord>(id, "keyword list", stop));
        builder.MapPost("/keyword-lists/{id:long}/words", AddWordAsync);
        builder.MapPut("/saved-conditions/{id:long}", SaveConditionAsync).AddEndpointFilter<Validated<SavedConditionSetup>>();
        builder.MapDelete("/saved-conditions/{id:long}", (long id, Saver saver, CancellationToken stop) => saver.RemoveAsync<SavedConditionRecord>(id, "saved condition", stop));
        builder.MapPut("/templates/{id:long}", SaveTemplateAsync).AddEndpointFilter<Validated<TemplateSetup>>();
        builder.MapDelete("/templates/{id:long}", (long id, Saver saver, CancellationToken stop) => saver.RemoveAsync<Template>(id, "template", stop));
        builder.MapPut("/templates/{id:long}/attachment", SaveAttachmentAsync).DisableAntiforgery();
        builder.MapDelete("/templates/{id:long}/attachment", RemoveAttachmentAsync);
    }

    private static async Task<SetupView> ReadAsync(PostTideContext db, CancellationToken stop)
    {
        var roles = await db.UserRoles.Join(db.Roles, u => u.RoleId, r => r.Id, (u, r) => new { u.UserId, r.Name }).ToListAsync(stop);
        var people = await db.Users.AsNoTracking().OrderBy(p => p.DisplayName).ToListAsync(stop);
        return new SetupView(
            await MailboxesPlace.ReadAsync(db, stop),
            await db.Queues.AsNoTracking().OrderBy(q => q.Position).ThenBy(q => q.Id).Select(q => new QueueSetup(q.Id, q.Name)).ToListAsync(stop),
            await db.KeywordLists.AsNoTracking().OrderBy(k => k.Name).Select(k => new KeywordListSetup(
                k.Id, k.Name, k.Description, k.Words, new KeywordOptions { WholeWords = k.WholeWords, SameCase = k.SameCase, SameAccents = k.SameAccents, Endings = k.Endings }))
                .ToListAsync(stop),
            await db.Templates.AsNoTracking().OrderBy(t => t.Name).Select(t => new TemplateSetup(t.Id, t.Name, t.Body, t.AttachmentName)).ToListAsync(stop),
            await db.Destinations.AsNoTracking().OrderBy(d => d.Name).Select(d => new DestinationSetup(d.Id, d.Name, d.Url)).ToListAsync(stop),
            new DoNotMailSetup(await db.DoNotMail.AsNoTracking().OrderBy(d => d.AddressOrDomain).Select(d => d.AddressOrDomain).ToListAsync(stop)),
            people.ConvertAll(p => new PersonRow(p.DisplayName, p.Email ?? "", [.. roles.Where(r => r.UserId == p.Id).Select(r => r.Name!).Order()])),
            await db.Audit.AsNoTracking().OrderByDescending(a => a.Id).Take(100).Select(a => new AuditRow(a.At, a.Person, a.What)).ToListAsync(stop),
            Core.Facts.BuiltInFacts.Names,
            await db.SavedConditions.AsNoTracking().OrderBy(c => c.Name).Select(c => new SavedConditionSetup(c.Id, c.Name, c.Description, c.Set)).ToListAsync(stop),
            Shown(await db.DeskHours.AsNoTracking().SingleOrDefaultAsync(stop) ?? new DeskHours()),
            [.. Enum.GetValues<MessagePart>().Select(p => new PartSetup(p, PartTests.Of(p)))],
            await SortersAsync(db, stop));
    }

    /// <summary>The sorters with the categories of the number in use, or of the one in hand where none is in use.</summary>
    private static async Task<List<SorterSetup>> SortersAsync(PostTideContext db, CancellationToken stop)
    {
        var sorters = await db.Sorters.AsNoTracking().OrderBy(s => s.Name)
            .Select(s => new { s.Id, s.Name, Numbers = s.Numbers.Where(n => n.State != SorterNumberState.Past).Select(n => new { n.State, n.Settings }).ToList() }).ToListAsync(stop);
        return sorters.ConvertAll(s => new SorterSetup(
            s.Id, s.Name, s.Numbers.Any(n => n.State == SorterNumberState.InUse),
            [.. s.Numbers.OrderByDescending(n => n.State == SorterNumberState.InUse).Take(1).SelectMany(n => n.Settings.Categories).Select(c => new SorterCategorySetup(c.Id, c.Name))]));
    }

    private static DeskHoursSetup Shown(DeskHours hours) => new(hours.Zone, hours.From, hours.Until, hours.Days);

    private static async Task SaveQueueAsync(long id, QueueSetup request, Saver saver, CancellationToken stop)
    {
        var position = await saver.Db.Queues.CountAsync(stop);
        var queue = await saver.FindOrAddAsync(id, () => new Queue { Name = "", Position = position }, stop);
        queue.Name = request.Name.Trim();
        await saver.SaveAsync($"Saved the queue “{queue.Name}”", stop);
    }

    private static async Task SaveKeywordListAsync(long id, KeywordListSetup request, Saver saver, CancellationToken stop)
    {
        var list = await saver.FindOrAddAsync(id, () => new KeywordListRecord { Name = "" }, stop);
        (list.Name, list.Description) = (request.Name.Trim(), request.Description.Trim());
        list.Words = [.. request.Words.Select(Core.Text.CleanText.Line).Where(w => w.Length > 0).Distinct(request.Options.SameCase ? StringComparer.Ordinal : StringComparer.OrdinalIgnoreCase)];
        (list.WholeWords, list.SameCase) = (request.Options.WholeWords, request.Options.SameCase);
        (list.SameAccents, list.Endings) = (request.Options.SameAccents, request.Options.Endings);
        list.Revision++;
        await saver.SaveAsync($"Saved the keyword list “{list.Name}”, {list.Words.Length} words", stop);
    }

    private static async Task AddWordAsync(long id, NameRequest request, Saver saver, CancellationToken stop)
    {
        var list = await saver.Db.KeywordLists.FindAsync([id], stop) ?? throw new RefusedException("This keyword list is gone.");
        var word = Core.Text.CleanText.Line(request.Name);
        if (word.Length is 0 or > LongestWord)
        {
            throw new RefusedException($"A word or phrase has between 1 and {LongestWord} characters.");
        }

        list.Words = [.. list.Words.Append(word).Distinct(list.SameCase ? StringComparer.Ordinal : StringComparer.OrdinalIgnoreCase)];
        list.Revision++;
        await saver.SaveAsync($"Added “{word}” to the keyword list “{list.Name}”", stop);
    }

    private static async Task SaveConditionAsync(long id, SavedConditionSetup request, PlanningSetup setup, Saver saver, CancellationToken stop)
    {
        var problems = ConditionCheck.Check(request.Set, (await setup.ReadAsync(saver.Db, stop)).Context, ConditionUse.Saved);
        if (!problems.IsEmpty)
        {
            throw new RefusedException($"It was not saved: {problems[0].Text}");
        }

        var condition = await saver.FindOrAddAsync(id, () => new SavedConditionRecord { Name = "", Set = ConditionSet.Empty }, stop);
        (condition.Name, condition.Description, condition.Set) = (request.Name.Trim(), request.Description.Trim(), request.Set);
        await saver.SaveAsync($"Saved the condition “{condition.Name}”", stop);
    }

    private static async Task SaveDeskHoursAsync(DeskHoursSetup request, Saver saver, CancellationToken stop)
    {
        var hours = await saver.Db.DeskHours.SingleOrDefaultAsync(stop);
        if (hours is null)
        {
            saver.Db.DeskHours.Add(hours = new DeskHours());
        }

        (hours.Zone, hours.From, hours.Until, hours.Days) = (request.Zone, request.From, request.Until, [.. request.Days.Distinct().Order()]);
        await saver.SaveAsync($"Saved the desk’s hours, {hours.From} to {hours.Until}, {hours.Zone}", stop);
    }

    private static async Task SaveTemplateAsync(long id, TemplateSetup request, Saver saver, CancellationToken stop)
    {
        var template = await saver.FindOrAddAsync(id, () => new Template { Name = "", Body = "" }, stop);
        (template.Name, template.Body) = (request.Name.Trim(), request.Body);
        await saver.SaveAsync($"Saved the template “{template.Name}”", stop);
    }

    private static async Task SaveAttachmentAsync(long id, IFormFile file, FileStore files, Saver saver, CancellationToken stop)
    {
        if (file.Length > LargestAttachment)
        {
            throw new RefusedException($"A template's file has at most {LargestAttachment / 1_000_000} MB. The one before was kept.");
        }

        var template = await saver.Db.Templates.FindAsync([id], stop) ?? throw new RefusedException("This template is gone.");
        using var memory = new MemoryStream();
        await file.CopyToAsync(memory, stop);
        template.AttachmentSha256 = await files.WriteAsync(memory.ToArray(), stop);
        template.AttachmentName = Core.Filing.SafeName.File(file.FileName);
        await saver.SaveAsync($"Put {template.AttachmentName} with the template “{template.Name}”", stop);
    }

    private static async Task RemoveAttachmentAsync(long id, Saver saver, CancellationToken stop)
    {
        var template = await saver.Db.Templates.FindAsync([id], stop) ?? throw new RefusedException("This template is gone.");
        (template.AttachmentName, template.AttachmentSha256) = (null, null);
        await saver.SaveAsync($"Took the file from the template “{template.Name}”", stop);
    }

    private static async Task SaveDestinationAsync(long id, DestinationSetup request, Saver saver, CancellationToken stop)
    {
        var destination = await saver.FindOrAddAsync(id, () => new Destination { Name = "", Url = "" }, stop);
        (destination.Name, destination.Url) = (request.Name.Trim(), request.Url.Trim());
        await saver.SaveAsync($"Saved the destination “{destination.Name}”, {destination.Url}", stop);
    }

    private static async Task SaveDoNotMailAsync(DoNotMailSetup request, Saver saver, TimeProvider clock, CancellationToken stop)
    {
        var wanted = request.Entries.Select(e => e.Trim().ToLowerInvariant()).Where(e => e.Length > 0).Distinct().ToList();
        var kept = await saver.Db.DoNotMail.ToListAsync(stop);
        saver.Db.DoNotMail.RemoveRange(kept.Where(k => !wanted.Contains(k.AddressOrDomain)));
        saver.Db.DoNotMail.AddRange(wanted.Except(kept.Select(k => k.AddressOrDomain))
            .Select(e => new DoNotMailEntry { AddressOrDomain = e, AddedAt = clock.GetUtcNow() }));
        await saver.SaveAsync($"Saved the do-not-mail list, {wanted.Count} entries", stop);
    }
}
