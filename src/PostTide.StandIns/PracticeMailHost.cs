using System.Collections.Immutable;
using System.Text;
using PostTide.Mail.Listener;
using PostTide.StandIns.PracticeMailboxes;

namespace PostTide.StandIns;

/// <summary>A message the practice mail host received.</summary>
public sealed record PracticeMail(int Number, DateTimeOffset At, string From, IReadOnlyList<string> Recipients, string Source);

/// <summary>
/// A mail host for practice: it takes what is sent to it and shows it. Mail to a practice mailbox is put there; nothing else is
/// delivered anywhere. It can be told to refuse.
/// </summary>
public sealed class PracticeMailHost(PracticeStore mailboxes, Misbehaviour wrong) : IMailIntake
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
        foreach (var user in mail.Recipients.SelectMany(MailboxesOf).Distinct(StringComparer.OrdinalIgnoreCase))
        {
            var bytes = Delivered(mail.From, mail.Recipients[0], mail.Bytes);
            mailboxes.Deliver(user, Enumerable.Repeat((bytes, DateTimeOffset.UtcNow), wrong.DeliversTwice ? 2 : 1));
        }

        return Task.CompletedTask;
    }

    /// <summary>The mailbox that takes mail to an address: its own, or the office's for its other addresses.</summary>
    private IEnumerable<string> MailboxesOf(string recipient)
    {
        var plain = Core.Messages.SubAddress.Split(recipient) is { Detail: not null } sub ? $"{sub.User}@{sub.Domain}" : recipient;
        var box = Saltmarrow.Office.MailboxOf(plain) ?? plain;
        return mailboxes.Accounts.Contains(box, StringComparer.OrdinalIgnoreCase) ? [box] : [];
    }

    /// <summary>The bytes with what a delivering host puts on top: the return path and whom the mail was originally written to.</summary>
    public static byte[] Delivered(string from, string to, byte[] bytes) =>
        [.. Encoding.UTF8.GetBytes($"Return-Path: <{from}>\r\nDelivered-To: {to}\r\n"), .. bytes];
}
