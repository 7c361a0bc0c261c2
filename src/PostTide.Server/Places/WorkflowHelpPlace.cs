using System.Collections.Immutable;
using System.Security.Claims;
using Microsoft.EntityFrameworkCore;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Rehearsal;
using PostTide.Core.Workflows;
using PostTide.Engine;
using PostTide.Engine.Deeds;
using PostTide.Engine.Rehearsals;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Server.Places;

/// <summary>A message named in passing.</summary>
public sealed record MailLine(long Id, DateTimeOffset ArrivedAt, string SenderAddress, string Subject)
{
    /// <summary>At most this many messages are named one by one.</summary>
    public const int Most = 100;

    /// <summary>The first of some messages, the latest first.</summary>
    public static IReadOnlyList<MailLine> Of(IEnumerable<long> ids, MailAtHand mail)
    {
        var wanted = ids.ToHashSet();
        return [.. mail.Messages.Reverse().Where(m => wanted.Contains(m.Id)).Take(Most).Select(m => new MailLine(m.Id, m.ArrivedAt, m.From.Address, m.Subject))];
    }
}

/// <summary>Two workflows that share messages.</summary>
public sealed record OverlapRow(long First, long Second, bool Skipped, int Both, int Answered, IReadOnlyList<MailLine> Messages, IReadOnlyList<MailLine> AnsweredMessages);

/// <summary>What each workflow takes in by itself, and the pairs that share messages.</summary>
public sealed record OverlapsView(int Messages, IReadOnlyList<Named> Workflows, IReadOnlyDictionary<string, int> Taken, IReadOnlyList<OverlapRow> Pairs);

/// <summary>A change that would take in a message, and what else it would bring in.</summary>
public sealed record SmallChangeView(string Text, Sheet Sheet, ImmutableArray<ListAddition> ListAdditions, int Also, IReadOnlyList<MailLine> AlsoTakes);

/// <summary>The messages whose kind is looked for.</summary>
public sealed record KindRequest(IReadOnlyList<long> MessageIds, int? Days);

/// <summary>Conditions that find messages of a kind.</summary>
public sealed record KindView(string Text, ConditionSet Set, int Chosen, int Matched, double Recall, double Precision, IReadOnlyList<MailLine> Others);

/// <summary>How a person judges what an edition makes of a message.</summary>
public enum ExampleMark
{
    /// <summary>What the rehearsed edition makes of it is meant.</summary>
    AsMeant,

    /// <summary>It is wrong: what the live edition makes of it is right, or the opposite outcome where there is none.</summary>
    Wrong,

    /// <summary>It should be taken in, whatever then follows.</summary>
    ShouldBeTaken,

    /// <summary>It should be left alone.</summary>
    ShouldBeLeft,
}

/// <summary>Marks a message of a rehearsal.</summary>
public sealed record ExampleRequest(Guid RehearsalId, long MessageId, ExampleMark Mark);

/// <summary>A kept example, and how what the edition makes of it differs from what is expected.</summary>
public sealed record ExampleView(MailLine Message, Expectation Expected, ImmutableArray<Difference> Differences, string KeptBy, DateTimeOffset KeptAt);

/// <summary>Help for whoever builds a workflow: overlaps, smallest changes, kinds, kept examples.</summary>
internal static class WorkflowHelpPlace
{
    private const int MostChosen = 200;

    public static void MapWorkflowHelp(this RouteGroupBuilder api)
    {
        var group = api.MapGroup("").WithTags("Workflows");
        group.MapGet("/workflows/overlaps", OverlapsAsync);
        group.MapGet("/workflows/{id:long}/smallest-changes", SmallestChangesAsync);
        group.MapPost("/workflows/kind", KindAsync);
        group.MapGet("/workflows/{id:long}/examples", ExamplesAsync);
        var builder = group.MapGroup("").RequireAuthorization(Permissions.Builder);
        builder.MapPost("/workflows/{id:long}/examples", KeepAsync);
        builder.MapDelete("/workflows/{id:long}/examples/{messageId:long}", ForgetAsync);
    }

    private static async Task<OverlapsView> OverlapsAsync(int? days, WorkflowHelp help, PostTideContext db, CancellationToken stop)
    {
        var (map, mail) = await help.OverlapsAsync(db, days, stop);
        return new OverlapsView(
            map.Messages,
            [.. mail.Live.Select(e => new Named(e.WorkflowId, e.WorkflowName))],
            map.Taken.ToDictionary(t => t.Key.ToString(System.Globalization.CultureInfo.InvariantCulture), t => t.Value),
            [.. map.Pairs.Select(p => new OverlapRow(p.First, p.Second, p.Skipped, p.Both.Length, p.Answered.Length, MailLine.Of(p.Both, mail), MailLine.Of(p.Answered, mail)))]);
    }

    private static async Task<IReadOnlyList<SmallChangeView>> SmallestChangesAsync(long id, long messageId, int? days, WorkflowHelp help, PostTideContext db, CancellationToken stop)
    {
        var (changes, mail) = await help.SmallestChangesAsync(db, id, messageId, days, stop);
        return [.. changes.Select(c => new SmallChangeView(c.Text, c.Sheet, c.ListAdditions, c.AlsoTakes.Length, MailLine.Of(c.AlsoTakes, mail)))];
    }

    private static async Task<IReadOnlyList<KindView>> KindAsync(KindRequest request, WorkflowHelp help, PostTideContext db, CancellationToken stop)
    {
        if (request.MessageIds.Count is 0 or > MostChosen)
        {
            throw new RefusedException($"Choose between one and {MostChosen} messages.");
        }

        var (proposals, mail) = await help.KindAsync(db, request.MessageIds, request.Days, stop);
        return [.. proposals.Select(p => new KindView(p.Text, p.Set, p.Chosen, p.Matched, p.Recall, p.Precision, MailLine.Of(p.Others, mail)))];
    }

    private static async Task<IReadOnlyList<ExampleView>> ExamplesAsync(long id, WorkflowHelp help, PostTideContext db, CancellationToken stop)
    {
        var (examples, _) = await help.ExamplesAsync(db, id, stop);
        var kept = await db.KeptExamples.AsNoTracking().Where(e => e.WorkflowId == id).ToDictionaryAsync(e => e.MessageId, stop);
        return [.. examples.Select(e => new ExampleView(
            Line(e.Example.Message), e.Example.Expected, e.Differences, kept[e.Example.Message.Id].KeptBy, kept[e.Example.Message.Id].KeptAt))];
    }

    private static async Task<ExampleView> KeepAsync(
        long id, ExampleRequest request, Rehearsals rehearsals, PostTideContext db, TimeProvider clock, ClaimsPrincipal user, CancellationToken stop)
    {
        var rehearsal = rehearsals.Find(request.RehearsalId) ?? throw new RefusedException("This rehearsal is no longer kept. Run it again.");
        var message = rehearsal.Result.Messages.FirstOrDefault(m => m.Message.Id == request.MessageId)
            ?? throw new RefusedException("This message is not in the rehearsal.");
        if (message.After.Outcome == Outcome.Skipped)
        {
            throw new RefusedException("An earlier workflow takes this message in, so this one is not asked about it. Nothing was kept.");
        }

        var expected = rehearsal.Expect(message, request.Mark == ExampleMark.Wrong, request.Mark switch
        {
            ExampleMark.ShouldBeTaken => true,
            ExampleMark.ShouldBeLeft => false,
            _ => null,
        });
        var kept = await db.KeptExamples.SingleOrDefaultAsync(e => e.WorkflowId == id && e.MessageId == request.MessageId, stop);
        if (kept is null)
        {
            kept = new KeptExampleRecord { WorkflowId = id, MessageId = request.MessageId, Expected = expected };
            db.KeptExamples.Add(kept);
        }

        (kept.Expected, kept.KeptBy, kept.KeptAt) = (expected, user.DisplayName(), clock.GetUtcNow());
        await db.SaveChangesAsync(stop);
        await db.NotifyAsync(Changes.Workflows);
        return new ExampleView(Line(message.Message), expected, expected.Against(message.After, rehearsal.Sheet), kept.KeptBy, kept.KeptAt);
    }

    private static async Task ForgetAsync(long id, long messageId, PostTideContext db, CancellationToken stop)
    {
        await db.KeptExamples.Where(e => e.WorkflowId == id && e.MessageId == messageId).ExecuteDeleteAsync(stop);
        await db.NotifyAsync(Changes.Workflows);
    }

    private static MailLine Line(PreparedMessage message) => new(message.Id, message.ArrivedAt, message.From.Address, message.Subject);
}
