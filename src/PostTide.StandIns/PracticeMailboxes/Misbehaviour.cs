namespace PostTide.StandIns.PracticeMailboxes;

/// <summary>What the practice mail server has been told to do wrong.</summary>
public sealed class Misbehaviour
{
    /// <summary>Every connection is closed at once.</summary>
    public bool Refuses { get; set; }

    /// <summary>The connection is dropped in the middle of every so-manieth message that is fetched; 0 for never.</summary>
    public int DropsEvery { get; set; }

    /// <summary>Seconds before every answer.</summary>
    public double StallSeconds { get; set; }

    /// <summary>Every message that comes in is put into the mailbox twice.</summary>
    public bool DeliversTwice { get; set; }

    /// <summary>Nothing but IMAP4rev1: no IDLE, MOVE, UIDPLUS.</summary>
    public bool Poor { get; set; }

    private int _fetched;

    /// <summary>Whether this message is the one in whose middle the connection is dropped.</summary>
    public bool DropsNow() => DropsEvery > 0 && Interlocked.Increment(ref _fetched) % DropsEvery == 0;
}
