using System.Collections.Immutable;
using MailKit;
using MailKit.Net.Imap;
using MailKit.Search;
using PostTide.Core.Workflows;

namespace PostTide.Mail.Imap;

/// <summary>One folder of a mailbox, open. Used by one caller at a time.</summary>
public sealed class ImapSession : IAsyncDisposable
{
    /// <summary>RFC 2177 §3: a server may close a connection that idles for half an hour.</summary>
    private static readonly TimeSpan LongestIdle = TimeSpan.FromMinutes(9);

    private readonly ImapClient _client;
    private readonly ImapFolder _folder;
    private readonly ImapAccount _account;
    private readonly ProtocolTail _tail;
    private volatile bool _changed;
    private volatile CancellationTokenSource? _idling;

    internal ImapSession(ImapClient client, ImapFolder folder, ImapAccount account, ProtocolTail tail)
    {
        (_client, _folder, _account, _tail) = (client, folder, account, tail);
        folder.CountChanged += OnCountChanged;
    }

    public uint UidValidity => _folder.UidValidity;

    /// <summary>The UID the next message will have at least; 0 when the server does not say.</summary>
    public uint UidNext => _folder.UidNext?.Id ?? 0;

    public int Count => _folder.Count;

    public bool CanIdle => _client.Capabilities.HasFlag(ImapCapabilities.Idle);

    public bool IsUsable => _client.IsConnected && _folder.IsOpen;

    public async ValueTask DisposeAsync()
    {
        try
        {
            using var patience = new CancellationTokenSource(TimeSpan.FromSeconds(2));
            if (_client.IsConnected)
            {
                await _client.DisconnectAsync(quit: true, patience.Token);
            }
        }
        catch (Exception e) when (ImapConnector.IsTrouble(e, CancellationToken.None) || e is OperationCanceledException)
        {
            // It is closed either way.
        }

        _client.Dispose();
    }

    /// <summary>The UIDs after one, in ascending order, of messages that arrived at the server on or after a day.</summary>
    public Task<IReadOnlyList<uint>> FindAsync(uint after, DateTimeOffset? since, CancellationToken stop) => GuardAsync<IReadOnlyList<uint>>(
        async () =>
        {
            SearchQuery query = SearchQuery.Uids(new UniqueIdRange(new UniqueId(Math.Max(after, 1)), UniqueId.MaxValue));
            if (since is { } day)
            {
                // SINCE disregards time and zone (RFC 3501 §6.4.4); a day earlier includes every zone's.
                query = query.And(SearchQuery.DeliveredAfter(day.UtcDateTime.Date.AddDays(-1)));
            }

            // “n:*” always holds the last message, even one before n (RFC 3501 §6.4.8).
            var found = await _folder.SearchAsync(query, stop);
            return [.. found.Select(u => u.Id).Where(u => u > after).Order()];
        },
        stop);

    /// <summary>What the server says about messages; those that are gone by now are missing from the answer.</summary>
    public Task<IReadOnlyList<ListedMail>> ListAsync(IReadOnlyList<uint> uids, CancellationToken stop) => GuardAsync<IReadOnlyList<ListedMail>>(
        async () =>
        {
            var summaries = await _folder.FetchAsync(
                Ids(uids), MessageSummaryItems.UniqueId | MessageSummaryItems.InternalDate | MessageSummaryItems.Size, stop);
            return [.. summaries.Select(s => new ListedMail(s.UniqueId.Id, s.Size ?? 0, s.InternalDate ?? DateTimeOffset.MinValue)).OrderBy(l => l.Uid)];
        },
        stop);

    /// <summary>Fetches messages without marking them read. Those that are gone by now are missing from the answer.</summary>
    public Task<IReadOnlyList<FetchedMail>> FetchAsync(IReadOnlyList<ListedMail> listed, long largest, CancellationToken stop) =>
        GuardAsync<IReadOnlyList<FetchedMail>>(
            async () =>
            {
                var fetched = new Dictionary<uint, FetchedMail>(listed.Count);
                var byUid = listed.ToDictionary(l => l.Uid);
                var whole = listed.Where(l => l.Size <= largest).Select(l => l.Uid).ToList();
                if (whole.Count > 0)
                {
                    await _folder.GetStreamsAsync(
                        Ids(whole),
                        async (_, _, uid, stream, token) =>
                        {
                            if (byUid.TryGetValue(uid.Id, out var mail))
                            {
                                fetched[uid.Id] = Taken(mail, await ReadAsync(stream, token), largest);
                            }
                        },
                        stop);
                }

                foreach (var mail in listed.Where(l => l.Size > largest))
                {
                    if (await HeaderAsync(mail.Uid, stop) is { } header)
                    {
                        fetched[mail.Uid] = new FetchedMail(mail, header, true);
                    }
                }

                return [.. fetched.Values.OrderBy(f => f.Listed.Uid)];
            },
            stop);

    /// <summary>Forgets what the server has told of: the look that follows finds it. What it tells from now on ends the next wait.</summary>
    public void BeginLook() => _changed = false;

    /// <summary>
    /// Waits with IDLE until the server says that messages came or went, until the time has passed, or until told to wake. What
    /// the server said since <see cref="BeginLook"/> counts: nothing slips in between.
    /// </summary>
    public Task WaitAsync(TimeSpan atMost, CancellationToken wake, CancellationToken stop) => GuardAsync(
        async () =>
        {
            using var done = CancellationTokenSource.CreateLinkedTokenSource(wake);
            done.CancelAfter(atMost < LongestIdle ? atMost : LongestIdle);
            _idling = done;
            try
            {
                if (!_changed && !done.IsCancellationRequested)
                {
                    await _client.IdleAsync(done.Token, stop);
                }
            }
            finally
            {
                _idling = null;
            }

            return true;
        },
        stop);

    /// <summary>Marks messages as read.</summary>
    public Task MarkReadAsync(IReadOnlyList<uint> uids, CancellationToken stop) => GuardAsync(
        async () =>
        {
            await _folder.AddFlagsAsync(Ids(uids), MessageFlags.Seen, silent: true, stop);
            return true;
        },
        stop);

    /// <summary>Carries effects out on one message. Flags first; a move last.</summary>
    /// <param name="uid">The message.</param>
    /// <param name="effects">In order.</param>
    /// <param name="mailId">Its Message-ID: by it a copy is found that an earlier, cut-off try made; empty when there is none.</param>
    /// <param name="again">Whether an earlier try may have got part of the way.</param>
    /// <param name="stop">Gives up.</param>
    /// <returns>The folder and place the message lies in afterwards, null when it was not moved or the server does not say.</returns>
    /// <exception cref="MessageGoneException">The message is no longer in the folder.</exception>
    public Task<MovedTo?> ApplyAsync(uint uid, ImmutableArray<MailboxEffect> effects, string mailId, bool again, CancellationToken stop) => GuardAsync(
        async () =>
        {
            var id = new UniqueId(_folder.UidValidity, uid);
            if ((await _folder.SearchAsync(SearchQuery.Uids([id]), stop)).Count == 0)
            {
                throw new MessageGoneException();
            }

            MovedTo? moved = null;
            foreach (var effect in effects)
            {
                if (effect.Moves)
                {
                    moved = await MoveAsync(id, effect, mailId, again, stop);
                }
                else
                {
                    await SetAsync(id, effect, stop);
                }
            }

            return moved;
        },
        stop);

    /// <summary>Whether the folder an effect moves to holds a message with this Message-ID: an earlier try moved it there.</summary>
    public Task<bool> HasArrivedAsync(MailboxEffect effect, string mailId, CancellationToken stop) => GuardAsync(
        async () => mailId.Length > 0 && await FindCopyAsync(await TargetAsync(effect, stop), mailId, stop) is not null,
        stop);

    /// <summary>The names of all folders, for choosing.</summary>
    public Task<IReadOnlyList<string>> FoldersAsync(CancellationToken stop) => GuardAsync<IReadOnlyList<string>>(
        async () =>
        {
            var folders = await _client.GetFoldersAsync(_client.PersonalNamespaces[0], cancellationToken: stop);
            return [.. folders.Where(f => !f.Attributes.HasFlag(FolderAttributes.NonExistent)).Select(Name).Order(StringComparer.Ordinal)];
        },
        stop);

    private void OnCountChanged(object? sender, EventArgs e)
    {
        _changed = true;
        _idling?.Cancel();
    }

    private static string Name(IMailFolder folder) =>
        folder.DirectorySeparator == '\0' ? folder.FullName : folder.FullName.Replace(folder.DirectorySeparator, '/');

    private static UniqueIdSet Ids(IEnumerable<uint> uids) => new(uids.Select(u => new UniqueId(u)), SortOrder.Ascending);

    private async Task SetAsync(UniqueId id, MailboxEffect effect, CancellationToken stop)
    {
        var (flags, keyword, add) = effect.Kind switch
        {
            MailboxEffectKind.MarkRead => (MessageFlags.Seen, null, true),
            MailboxEffectKind.MarkUnread => (MessageFlags.Seen, null, false),
            MailboxEffectKind.SetFlag => (MessageFlags.Flagged, null, true),
            MailboxEffectKind.ClearFlag => (MessageFlags.Flagged, null, false),
            MailboxEffectKind.SetKeyword => (MessageFlags.None, effect.Name, true),
            _ => (MessageFlags.None, effect.Name, false),
        };
        if (keyword is not null && add && !_folder.PermanentFlags.HasFlag(MessageFlags.UserDefined) && !_folder.PermanentKeywords.Contains(keyword))
        {
            throw new MailboxRefusedException($"This mailbox keeps no keywords of one’s own, so “{keyword}” cannot be set.");
        }

        var request = new StoreFlagsRequest(add ? StoreAction.Add : StoreAction.Remove, flags) { Silent = true };
        if (keyword is not null)
        {
            request.Keywords.Add(keyword);
        }

        await _folder.StoreAsync(id, request, stop);
    }

    private async Task<MovedTo?> MoveAsync(UniqueId id, MailboxEffect effect, string mailId, bool again, CancellationToken stop)
    {
        var target = await TargetAsync(effect, stop);
        if (target.FullName == _folder.FullName)
        {
            return null;
        }

        // Without MOVE a try that was cut off may have copied and not yet removed: then only the removing is left to do.
        if (again && mailId.Length > 0 && await FindCopyAsync(target, mailId, stop) is { } copy)
        {
            await _folder.AddFlagsAsync(id, MessageFlags.Deleted, silent: true, stop);
            await _folder.ExpungeAsync([id], stop);
            return copy;
        }

        var moved = await _folder.MoveToAsync(id, target, stop);
        return moved is { } at ? new MovedTo(Name(target), at.Validity, at.Id) : null;
    }

    private async Task<MovedTo?> FindCopyAsync(IMailFolder target, string mailId, CancellationToken stop)
    {
        await target.OpenAsync(FolderAccess.ReadOnly, stop);
        try
        {
            var found = await target.SearchAsync(SearchQuery.HeaderContains("Message-ID", mailId), stop);
            return found.Count == 0 ? null : new MovedTo(Name(target), target.UidValidity, found[^1].Id);
        }
        finally
        {
            await _folder.OpenAsync(FolderAccess.ReadWrite, stop);
        }
    }

    /// <summary>The folder to move to; one that is not there yet is made.</summary>
    private async Task<IMailFolder> TargetAsync(MailboxEffect effect, CancellationToken stop)
    {
        if (effect.Kind == MailboxEffectKind.Archive)
        {
            if (_client.Capabilities.HasFlag(ImapCapabilities.SpecialUse) || _client.Capabilities.HasFlag(ImapCapabilities.XList))
            {
                var named = _client.GetFolder(SpecialFolder.Archive);
                if (named is not null)
                {
                    return named;
                }
            }
        }

        var name = effect.Kind == MailboxEffectKind.Archive ? "Archive" : effect.Name!;
        try
        {
            return await ImapConnector.FindFolderAsync(_client, name, stop);
        }
        catch (FolderNotFoundException)
        {
            var parent = await _client.GetFolderAsync(_client.PersonalNamespaces[0].Path, stop);
            foreach (var part in name.Split('/', StringSplitOptions.RemoveEmptyEntries))
            {
                parent = await ChildAsync(parent, part, stop);
            }

            return parent;
        }
    }

    private static async Task<IMailFolder> ChildAsync(IMailFolder parent, string name, CancellationToken stop)
    {
        try
        {
            return await parent.GetSubfolderAsync(name, stop);
        }
        catch (FolderNotFoundException)
        {
            return await parent.CreateAsync(name, isMessageFolder: true, stop)
                ?? throw new MailboxRefusedException($"The folder “{name}” could not be made.");
        }
    }

    private async Task<byte[]?> HeaderAsync(uint uid, CancellationToken stop)
    {
        try
        {
            var headers = await _folder.GetHeadersAsync(new UniqueId(uid), stop);
            using var memory = new MemoryStream();
            await headers.WriteToAsync(memory, stop);
            return memory.ToArray();
        }
        catch (MessageNotFoundException)
        {
            return null;
        }
    }

    private static async Task<byte[]> ReadAsync(Stream stream, CancellationToken stop)
    {
        var bytes = new byte[stream.Length];
        await stream.ReadExactlyAsync(bytes, stop);
        return bytes;
    }

    /// <summary>A server may name too small a size; then only the header is kept, as if it had been honest.</summary>
    private static FetchedMail Taken(ListedMail listed, byte[] bytes, long largest)
    {
        if (bytes.Length <= largest)
        {
            return new FetchedMail(listed, bytes, false);
        }

        var end = bytes.AsSpan().IndexOf("\r\n\r\n"u8);
        return new FetchedMail(listed with { Size = bytes.Length }, bytes[..(int)Math.Min(end < 0 ? bytes.Length : end + 4, largest)], true);
    }

    private async Task<T> GuardAsync<T>(Func<Task<T>> ask, CancellationToken stop)
    {
        try
        {
            return await ask();
        }
        catch (Exception e) when (e is not (MessageGoneException or MailboxRefusedException) && ImapConnector.IsTrouble(e, stop))
        {
            throw ImapConnector.Trouble(ConnectStep.Folder, _account, _tail, e);
        }
    }
}

/// <summary>Where a moved message lies now.</summary>
public sealed record MovedTo(string Folder, uint UidValidity, uint Uid);

/// <summary>A message is no longer in its folder: moved or deleted by somebody.</summary>
public sealed class MessageGoneException() : Exception("The message is no longer in its folder; somebody moved or deleted it");

/// <summary>A mailbox cannot do what is asked of it, however often it is asked.</summary>
public sealed class MailboxRefusedException(string why) : Exception(why);
