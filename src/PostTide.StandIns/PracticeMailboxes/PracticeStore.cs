namespace PostTide.StandIns.PracticeMailboxes;

/// <summary>The mailboxes of the practice mail server. Everything is done under one lock: it serves an office, not a country.</summary>
/// <param name="place">Where it lies on disk; null for memory only.</param>
public sealed class PracticeStore(string? place)
{
    /// <summary>The password of every practice mailbox.</summary>
    public const string Password = "practice";

    private static readonly string[] Usual = ["INBOX", "Archive", "Sent", "Junk"];
    private readonly Dictionary<string, Dictionary<string, PracticeFolder>> _accounts = new(StringComparer.OrdinalIgnoreCase);
    private TaskCompletionSource _changed = new(TaskCreationOptions.RunContinuationsAsynchronously);

    public Lock Gate { get; } = new();

    /// <summary>Completes at the next change of anything.</summary>
    public Task Changed
    {
        get
        {
            lock (Gate)
            {
                return _changed.Task;
            }
        }
    }

    public IReadOnlyList<string> Accounts
    {
        get
        {
            lock (Gate)
            {
                return [.. _accounts.Keys.Order(StringComparer.Ordinal)];
            }
        }
    }

    /// <summary>Makes a mailbox unless there is one.</summary>
    public void Open(string user)
    {
        lock (Gate)
        {
            if (_accounts.ContainsKey(user))
            {
                return;
            }

            var folders = new Dictionary<string, PracticeFolder>(StringComparer.Ordinal);
            _accounts[user] = folders;
            var named = place is not null && Directory.Exists(PlaceOf(user)) ? Directory.GetDirectories(PlaceOf(user)).Select(d => Uri.UnescapeDataString(Path.GetFileName(d))) : [];
            foreach (var name in Usual.Union(named))
            {
                folders[name] = NewFolder(user, name);
            }
        }
    }

    /// <summary>Opens every mailbox that lies on disk.</summary>
    public void OpenAll()
    {
        foreach (var folder in place is not null && Directory.Exists(place) ? Directory.GetDirectories(place) : [])
        {
            Open(Uri.UnescapeDataString(Path.GetFileName(folder)));
        }
    }

    public bool SignIn(string user, string password)
    {
        lock (Gate)
        {
            return password == Password && _accounts.ContainsKey(user);
        }
    }

    /// <summary>A folder by its name, INBOX in whatever case; null when there is none.</summary>
    public PracticeFolder? Find(string user, string name)
    {
        lock (Gate)
        {
            return _accounts[user].GetValueOrDefault(name.Equals("INBOX", StringComparison.OrdinalIgnoreCase) ? "INBOX" : name);
        }
    }

    public IReadOnlyList<PracticeFolder> Folders(string user)
    {
        lock (Gate)
        {
            return [.. _accounts[user].Values.OrderBy(f => f.Name, StringComparer.Ordinal)];
        }
    }

    public bool Create(string user, string name)
    {
        lock (Gate)
        {
            return _accounts[user].TryAdd(name, NewFolder(user, name));
        }
    }

    /// <summary>Puts messages into a mailbox, and gives the UIDs they got.</summary>
    public IReadOnlyList<uint> Deliver(string user, IEnumerable<(byte[] Bytes, DateTimeOffset At)> messages, string folder = "INBOX")
    {
        Open(user);
        lock (Gate)
        {
            var inbox = _accounts[user][folder];
            var uids = messages.Select(m => inbox.Append(m.Bytes, m.At, []).Uid).ToList();
            inbox.WriteMeta();
            Signal();
            return uids;
        }
    }

    public void Renumber(string user, string folder = "INBOX")
    {
        lock (Gate)
        {
            _accounts[user][folder].Renumber();
            Signal();
        }
    }

    /// <summary>Tells everybody who waits that something has changed; the caller holds the lock.</summary>
    public void Signal()
    {
        var before = _changed;
        _changed = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
        before.SetResult();
    }

    private string PlaceOf(string user) => Path.Combine(place!, Uri.EscapeDataString(user));

    private PracticeFolder NewFolder(string user, string name) => new(
        name, place is null ? null : Path.Combine(PlaceOf(user), Uri.EscapeDataString(name)), (uint)(DateTimeOffset.UtcNow.ToUnixTimeSeconds() % 1_000_000_000));
}
