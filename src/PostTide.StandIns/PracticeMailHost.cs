using System.Collections.Immutable;
using System.Text;
using PostTide.Mail.Listener;

namespace PostTide.StandIns;

/// <summary>A message the practice mail host received.</summary>
public sealed record PracticeMail(int Number, DateTimeOffset At, string From, IReadOnlyList<string> Recipients, string Source);

/// <summary>A mail host for practice: it takes what Post Tide sends, shows it and delivers it nowhere. It can be told to refuse.</summary>
public sealed class PracticeMailHost : IMailIntake
{
    private const int MostKept = 2_000;
    private ImmutableList<PracticeMail> _received = [];
    private int _count;

    /// <summary>While set, every message is refused for the time being.</summary>
    public bool Refuses { get; set; }

    public IReadOnlyList<PracticeMail> Received => _received;

    public Task<bool> AcceptsAsync(string address, CancellationToken stop) => Task.FromResult(true);

    public Task KeepAsync(ReceivedMail mail, CancellationToken stop)
    {
        if (Refuses)
        {
            throw new InvalidOperationException("The practice mail host was told to refuse.");
        }

        var number = Interlocked.Increment(ref _count);
        var received = new PracticeMail(number, DateTimeOffset.UtcNow, mail.From, mail.Recipients, Encoding.UTF8.GetString(mail.Bytes));
        ImmutableInterlocked.Update(ref _received, (list, added) => (list.Count >= MostKept ? list.RemoveAt(0) : list).Add(added), received);
        return Task.CompletedTask;
    }
}
