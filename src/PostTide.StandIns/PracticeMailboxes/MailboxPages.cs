namespace PostTide.StandIns.PracticeMailboxes;

/// <summary>How the practice mail server is told to misbehave.</summary>
public sealed record MisbehaviourRequest(bool Refuses = false, int DropsEvery = 0, double StallSeconds = 0, bool DeliversTwice = false, bool Poor = false);

/// <summary>What a practice folder holds.</summary>
public sealed record PracticeFolderView(string Name, uint UidValidity, IReadOnlyList<PracticeMessageView> Messages);

/// <summary>A message of a practice folder.</summary>
public sealed record PracticeMessageView(uint Uid, IReadOnlyList<string> Flags);

/// <summary>The practice mailboxes over HTTP: filled, looked at, and told to misbehave.</summary>
internal static class MailboxPages
{
    public static void MapMailboxes(this WebApplication app)
    {
        app.MapPut("/mailboxes/{user}", (string user, PracticeStore store) => store.Open(user));
        app.MapPost("/mailboxes/{user}/messages", async (string user, HttpRequest request, PracticeStore store) =>
        {
            using var body = new MemoryStream();
            await request.Body.CopyToAsync(body);
            store.Deliver(user, [(body.ToArray(), DateTimeOffset.UtcNow)]);
        });
        app.MapPost("/mailboxes/{user}/renumber", (string user, PracticeStore store) => store.Renumber(user));
        app.MapGet("/mailboxes/{user}", (string user, PracticeStore store) => store.Folders(user).Select(f =>
        {
            lock (store.Gate)
            {
                return new PracticeFolderView(f.Name, f.UidValidity, [.. f.Messages.Select(m => new PracticeMessageView(m.Uid, [.. m.Flags.Order()]))]);
            }
        }));
        app.MapPost("/misbehaviour", (MisbehaviourRequest request, Misbehaviour wrong) =>
            (wrong.Refuses, wrong.DropsEvery, wrong.StallSeconds, wrong.DeliversTwice, wrong.Poor) =
                (request.Refuses, request.DropsEvery, request.StallSeconds, request.DeliversTwice, request.Poor));
    }
}
