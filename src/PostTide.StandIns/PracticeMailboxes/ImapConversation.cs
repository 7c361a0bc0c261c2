using System.Globalization;
using System.Net.Sockets;
using System.Text;

namespace PostTide.StandIns.PracticeMailboxes;

/// <summary>One client's connection to the practice mail server: IMAP4rev1 (RFC 3501) with IDLE, MOVE, UIDPLUS and SPECIAL-USE.</summary>
internal sealed class ImapConversation : IDisposable
{
    private const string Rich = "IMAP4rev1 SASL-IR AUTH=PLAIN ID NAMESPACE CHILDREN UNSELECT IDLE MOVE UIDPLUS SPECIAL-USE LITERAL+";
    private const string Bare = "IMAP4rev1 AUTH=PLAIN";

    private readonly TcpClient _client;
    private readonly NetworkStream _stream;
    private readonly PracticeStore _store;
    private readonly Misbehaviour _wrong;
    private readonly ImapCommandReader _reader;
    private readonly MemoryStream _out = new();
    private string? _user;
    private PracticeFolder? _folder;
    private uint _uidValidity;
    private bool _readOnly;
    private List<PracticeMessage> _view = [];

    public ImapConversation(TcpClient client, PracticeStore store, Misbehaviour wrong)
    {
        (_client, _store, _wrong) = (client, store, wrong);
        client.NoDelay = true;
        _stream = client.GetStream();
        _reader = new ImapCommandReader(_stream, AskForMoreAsync);
    }

    private string Capabilities => _wrong.Poor ? Bare : Rich;

    private uint LastUid => _view.Count == 0 ? 0 : _view[^1].Uid;

    public void Dispose() => _out.Dispose();

    public async Task RunAsync(CancellationToken stop)
    {
        if (_wrong.Refuses)
        {
            Say("* BYE the practice mail server was told to refuse");
            await FlushAsync(stop);
            return;
        }

        Say($"* OK [CAPABILITY {Capabilities}] practice mail server");
        await FlushAsync(stop);
        while (!stop.IsCancellationRequested)
        {
            ImapCommand? command;
            try
            {
                command = await _reader.ReadAsync(stop);
            }
            catch (ImapSyntaxException e)
            {
                Say($"* BAD {e.Message}");
                await FlushAsync(stop);
                continue;
            }

            if (command is null || _wrong.Refuses)
            {
                return;
            }

            if (_wrong.StallSeconds > 0)
            {
                await Task.Delay(TimeSpan.FromSeconds(_wrong.StallSeconds), stop);
            }

            if (!await AnswerAsync(command, stop))
            {
                return;
            }
        }
    }

    /// <summary>Answers a command; false when the connection ends with it.</summary>
    private async Task<bool> AnswerAsync(ImapCommand command, CancellationToken stop)
    {
        try
        {
            if (_folder is not null && _folder.UidValidity != _uidValidity)
            {
                Say("* BYE the folder is numbered anew");
                await FlushAsync(stop);
                return false;
            }

            var done = await CarryOutAsync(command, stop);
            if (command.Name is not ("FETCH" or "STORE" or "SEARCH" or "LOGOUT"))
            {
                Catch();
            }

            Say($"{command.Tag} {done}");
        }
        catch (ImapSyntaxException e)
        {
            // Half an answer is taken back.
            _out.SetLength(0);
            Say($"{command.Tag} BAD {e.Message}");
        }

        await FlushAsync(stop);
        return command.Name != "LOGOUT";
    }

    private async Task<string> CarryOutAsync(ImapCommand command, CancellationToken stop)
    {
        switch (command.Name)
        {
            case "CAPABILITY":
                Say($"* CAPABILITY {Capabilities}");
                return "OK done";
            case "NOOP" or "CHECK" or "SUBSCRIBE" or "UNSUBSCRIBE":
                return "OK done";
            case "ID":
                Say("* ID NIL");
                return "OK done";
            case "LOGOUT":
                Say("* BYE until the next tide");
                return "OK done";
            case "LOGIN":
                return SignIn(command.Text(0), command.Text(1));
            case "AUTHENTICATE":
                return await AuthenticateAsync(command, stop);
        }

        if (_user is null)
        {
            return "NO sign in first";
        }

        switch (command.Name)
        {
            case "NAMESPACE":
                Say("* NAMESPACE ((\"\" \"/\")) NIL NIL");
                return "OK done";
            case "LIST" or "LSUB":
                List(command);
                return "OK done";
            case "CREATE":
                return _store.Create(_user, command.Text(0)) ? "OK made" : "NO there is one already";
            case "STATUS":
                return Status(command);
            case "SELECT" or "EXAMINE":
                return Select(command.Text(0), command.Name == "EXAMINE");
            case "APPEND":
                return Append(command);
        }

        if (_folder is null)
        {
            return "BAD no folder is selected, or the command is not known here";
        }

        switch (command.Name)
        {
            case "CLOSE" or "UNSELECT":
                if (command.Name == "CLOSE" && !_readOnly)
                {
                    Expunge(_ => true, silent: true);
                }

                (_folder, _view) = (null, []);
                return "OK done";
            case "EXPUNGE":
                Expunge(_ => true, silent: false);
                return "OK done";
            case "UID EXPUNGE":
                Expunge(m => ImapSearch.InSet(command.Text(0), m.Uid, LastUid), silent: false);
                return "OK done";
            case "IDLE":
                return await IdleAsync(stop);
            case "SEARCH" or "UID SEARCH":
                return Search(command);
            case "FETCH" or "UID FETCH":
                await FetchAsync(command, stop);
                return "OK done";
            case "STORE" or "UID STORE":
                return Store(command);
            case "COPY" or "UID COPY" or "MOVE" or "UID MOVE":
                return Copy(command);
            default:
                return $"BAD {command.Name} is not known here";
        }
    }

    private string SignIn(string user, string password)
    {
        if (!_store.SignIn(user, password))
        {
            return "NO [AUTHENTICATIONFAILED] the user name or the password is wrong";
        }

        _user = user;
        return $"OK [CAPABILITY {Capabilities}] signed in";
    }

    private async Task<string> AuthenticateAsync(ImapCommand command, CancellationToken stop)
    {
        if (!command.Arguments[0].Is("PLAIN"))
        {
            return "NO this mechanism is not offered";
        }

        var response = command.Arguments.Count > 1 ? command.Text(1) : null;
        if (response is null)
        {
            await AskForMoreAsync();
            response = await _reader.ReadLineAsync(stop) ?? "*";
        }

        var bytes = new byte[response.Length];
        if (!Convert.TryFromBase64String(response, bytes, out var length))
        {
            return "BAD this is not Base64";
        }

        var parts = Encoding.UTF8.GetString(bytes, 0, length).Split('\0');
        return parts.Length == 3 ? SignIn(parts[1], parts[2]) : "BAD this is not what PLAIN asks for";
    }

    private void List(ImapCommand command)
    {
        var arguments = command.Arguments.Where(a => !a.IsList).ToList();
        var special = command.Arguments.Count > 0 && command.Arguments[0].IsList;
        var pattern = arguments[1].Text;
        if (pattern.Length == 0)
        {
            Say("* LIST (\\Noselect) \"/\" \"\"");
            return;
        }

        foreach (var folder in _store.Folders(_user!))
        {
            var wanted = pattern is "*" or "%" || folder.Name.Equals(pattern, StringComparison.OrdinalIgnoreCase) || (pattern.EndsWith('*') && folder.Name.StartsWith(pattern[..^1], StringComparison.Ordinal));
            if (wanted && (!special || folder.SpecialUse is not null))
            {
                Say($"* {command.Name} (\\HasNoChildren{(folder.SpecialUse is { } use && !_wrong.Poor ? " " + use : "")}) \"/\" \"{Quote(folder.Name)}\"");
            }
        }
    }

    private string Status(ImapCommand command)
    {
        if (_store.Find(_user!, command.Text(0)) is not { } folder)
        {
            return "NO there is no such folder";
        }

        lock (_store.Gate)
        {
            var unseen = folder.Messages.Count(m => !m.Flags.Contains("\\Seen"));
            Say(string.Create(CultureInfo.InvariantCulture,
                $"* STATUS \"{Quote(folder.Name)}\" (MESSAGES {folder.Messages.Count} RECENT 0 UIDNEXT {folder.UidNext} UIDVALIDITY {folder.UidValidity} UNSEEN {unseen})"));
        }

        return "OK done";
    }

    private string Select(string name, bool readOnly)
    {
        if (_store.Find(_user!, name) is not { } folder)
        {
            (_folder, _view) = (null, []);
            return "NO [NONEXISTENT] there is no such folder";
        }

        lock (_store.Gate)
        {
            (_folder, _readOnly, _uidValidity) = (folder, readOnly, folder.UidValidity);
            _view = [.. folder.Messages];
            var keywords = string.Join(' ', folder.Messages.SelectMany(m => m.Flags).Where(f => f[0] != '\\').Distinct(StringComparer.OrdinalIgnoreCase));
            Say($"* FLAGS (\\Answered \\Flagged \\Deleted \\Seen \\Draft {keywords})".Replace(" )", ")", StringComparison.Ordinal));
            Say($"* OK [PERMANENTFLAGS ({(readOnly ? "" : "\\Answered \\Flagged \\Deleted \\Seen \\Draft \\*")})] kept");
            Say($"* {_view.Count} EXISTS");
            Say("* 0 RECENT");
            Say($"* OK [UIDVALIDITY {folder.UidValidity}] numbered");
            Say($"* OK [UIDNEXT {folder.UidNext}] next");
        }

        return $"OK [{(readOnly ? "READ-ONLY" : "READ-WRITE")}] selected";
    }

    private string Append(ImapCommand command)
    {
        if (_store.Find(_user!, command.Text(0)) is not { } folder)
        {
            return "NO [TRYCREATE] there is no such folder";
        }

        if (command.Arguments[^1].Literal is not { } bytes)
        {
            return "BAD a message is missing";
        }

        var flags = command.Arguments.FirstOrDefault(a => a.IsList)?.List!.Select(t => t.Text) ?? [];
        var date = command.Arguments.Skip(1).SkipLast(1).FirstOrDefault(a => !a.IsList)?.Text;
        var at = DateTimeOffset.TryParseExact(date?.Trim(), "d-MMM-yyyy HH:mm:ss zzz", CultureInfo.InvariantCulture, DateTimeStyles.AllowInnerWhite, out var given) ? given : DateTimeOffset.UtcNow;
        lock (_store.Gate)
        {
            var appended = folder.Append(bytes, at, flags);
            if (_wrong.DeliversTwice)
            {
                folder.Append(bytes, at, flags);
            }

            folder.WriteMeta();
            _store.Signal();
            return _wrong.Poor ? "OK appended" : $"OK [APPENDUID {folder.UidValidity} {appended.Uid}] appended";
        }
    }

    private void Expunge(Func<PracticeMessage, bool> wanted, bool silent)
    {
        lock (_store.Gate)
        {
            foreach (var message in _folder!.Messages.Where(m => m.Flags.Contains("\\Deleted") && wanted(m)).ToList())
            {
                _folder.Remove(message);
            }

            _store.Signal();
        }

        if (!silent)
        {
            Catch();
        }
    }

    private async Task<string> IdleAsync(CancellationToken stop)
    {
        await AskForMoreAsync();
        var ended = _reader.ReadLineAsync(stop);
        while (true)
        {
            var changed = _store.Changed;
            Catch();
            await FlushAsync(stop);
            if (await Task.WhenAny(ended, changed) == ended)
            {
                return await ended is { } said && said.Equals("DONE", StringComparison.OrdinalIgnoreCase) ? "OK done" : "BAD expected DONE";
            }

            if (_folder!.UidValidity != _uidValidity || _wrong.Refuses)
            {
                _client.Close();
                throw new IOException("The folder is numbered anew.");
            }
        }
    }

    private string Search(ImapCommand command)
    {
        var byUid = command.Name.StartsWith("UID", StringComparison.Ordinal);
        var keys = command.Arguments.ToList();
        if (keys.Count > 1 && keys[0].Is("CHARSET"))
        {
            keys.RemoveRange(0, 2);
        }

        lock (_store.Gate)
        {
            var found = _view.Select((m, i) => (Message: m, Sequence: (uint)i + 1)).Where(m => ImapSearch.Fits(keys, m.Message, m.Sequence, (uint)_view.Count, LastUid));
            Say(string.Join(' ', found.Select(f => (byUid ? f.Message.Uid : f.Sequence).ToString(CultureInfo.InvariantCulture)).Prepend("* SEARCH")));
        }

        return "OK done";
    }

    private async Task FetchAsync(ImapCommand command, CancellationToken stop)
    {
        var byUid = command.Name.StartsWith("UID", StringComparison.Ordinal);
        var items = command.Arguments[1].List ?? [.. command.Arguments.Skip(1)];
        foreach (var (message, sequence) in Chosen(command).ToList())
        {
            Write($"* {sequence} FETCH (");
            var first = true;
            foreach (var item in byUid && !items.Any(i => i.Is("UID")) ? items.Append(new ImapToken("UID", null, null)) : items)
            {
                Write(first ? "" : " ");
                first = false;
                await WriteItemAsync(item.Text.ToUpperInvariant(), message, stop);
            }

            Say(")");
            if (_out.Length > 200_000)
            {
                await FlushAsync(stop);
            }
        }
    }

    private async Task WriteItemAsync(string item, PracticeMessage message, CancellationToken stop)
    {
        switch (item)
        {
            case "UID":
                Write($"UID {message.Uid}");
                break;
            case "FLAGS":
                Write($"FLAGS ({string.Join(' ', message.Flags)})");
                break;
            case "RFC822.SIZE":
                Write($"RFC822.SIZE {message.Bytes.Length}");
                break;
            case "INTERNALDATE":
                Write($"INTERNALDATE \"{message.ArrivedAt.ToString("dd-MMM-yyyy HH:mm:ss zzz", CultureInfo.InvariantCulture).Remove(24, 1)}\"");
                break;
            case "BODY[]" or "BODY.PEEK[]" or "RFC822":
                await WriteLiteralAsync("BODY[]", message.Bytes, stop);
                break;
            case "BODY[HEADER]" or "BODY.PEEK[HEADER]" or "RFC822.HEADER":
                var end = message.Bytes.AsSpan().IndexOf("\r\n\r\n"u8);
                await WriteLiteralAsync("BODY[HEADER]", end < 0 ? message.Bytes : message.Bytes[..(end + 4)], stop);
                break;
            default:
                throw new ImapSyntaxException($"{item} cannot be fetched here");
        }

        if (!item.Contains("PEEK", StringComparison.Ordinal) && item.StartsWith("BODY", StringComparison.Ordinal) && !_readOnly)
        {
            message.Flags.Add("\\Seen");
        }
    }

    private async Task WriteLiteralAsync(string name, byte[] bytes, CancellationToken stop)
    {
        Write($"{name} {{{bytes.Length}}}\r\n");
        if (_wrong.DropsNow())
        {
            _out.Write(bytes.AsSpan(0, bytes.Length / 2));
            await FlushAsync(stop);
            _client.Close();
            throw new IOException("The practice mail server was told to drop the connection.");
        }

        _out.Write(bytes);
    }

    private string Store(ImapCommand command)
    {
        if (_readOnly)
        {
            return "NO the folder was opened for reading only";
        }

        var how = command.Text(1).ToUpperInvariant();
        var flags = command.Arguments.Skip(2).SelectMany(a => a.List ?? [a]).Select(a => a.Text).ToList();
        lock (_store.Gate)
        {
            foreach (var (message, sequence) in Chosen(command).ToList())
            {
                if (how[0] == '-')
                {
                    message.Flags.ExceptWith(flags);
                }
                else
                {
                    if (how[0] != '+')
                    {
                        message.Flags.Clear();
                    }

                    message.Flags.UnionWith(flags);
                }

                _folder!.SaveFlags(message);
                if (!how.EndsWith(".SILENT", StringComparison.Ordinal))
                {
                    Say($"* {sequence} FETCH (UID {message.Uid} FLAGS ({string.Join(' ', message.Flags)}))");
                }
            }
        }

        return "OK done";
    }

    private string Copy(ImapCommand command)
    {
        var moves = command.Name.EndsWith("MOVE", StringComparison.Ordinal);
        if (moves && (_wrong.Poor || _readOnly))
        {
            return "BAD this cannot be moved here";
        }

        if (_store.Find(_user!, command.Text(1)) is not { } target)
        {
            return "NO [TRYCREATE] there is no such folder";
        }

        lock (_store.Gate)
        {
            var pairs = new List<(uint From, uint To)>();
            foreach (var (message, _) in Chosen(command).Where(c => _folder!.Messages.Contains(c.Message)).ToList())
            {
                pairs.Add((message.Uid, target.Append(message.Bytes, message.ArrivedAt, message.Flags).Uid));
                if (moves)
                {
                    _folder!.Remove(message);
                }
            }

            target.WriteMeta();
            _store.Signal();
            var code = pairs.Count == 0 || _wrong.Poor ? "" : $"[COPYUID {target.UidValidity} {string.Join(',', pairs.Select(p => p.From))} {string.Join(',', pairs.Select(p => p.To))}] ";
            if (moves && code.Length > 0)
            {
                Say($"* OK {code}moved");
                return "OK done";
            }

            return $"OK {code}done";
        }
    }

    /// <summary>The messages a command names, as this client sees the folder, with their sequence numbers.</summary>
    private IEnumerable<(PracticeMessage Message, uint Sequence)> Chosen(ImapCommand command)
    {
        var byUid = command.Name.StartsWith("UID", StringComparison.Ordinal);
        var set = command.Text(0);
        return _view.Select((m, i) => (Message: m, Sequence: (uint)i + 1))
            .Where(m => ImapSearch.InSet(set, byUid ? m.Message.Uid : m.Sequence, byUid ? LastUid : (uint)_view.Count));
    }

    /// <summary>Tells the client what came and went since it last looked.</summary>
    private void Catch()
    {
        if (_folder is null)
        {
            return;
        }

        lock (_store.Gate)
        {
            var there = _folder.Messages.ToHashSet();
            for (var i = _view.Count - 1; i >= 0; i--)
            {
                if (!there.Contains(_view[i]))
                {
                    _view.RemoveAt(i);
                    Say($"* {i + 1} EXPUNGE");
                }
            }

            if (_folder.Messages.Count > _view.Count)
            {
                _view = [.. _folder.Messages];
                Say($"* {_view.Count} EXISTS");
            }
        }
    }

    private async Task AskForMoreAsync()
    {
        Say("+ go on");
        await FlushAsync(CancellationToken.None);
    }

    private void Say(string line) => Write(line + "\r\n");

    private void Write(string text) => _out.Write(Encoding.UTF8.GetBytes(text));

    private async Task FlushAsync(CancellationToken stop)
    {
        if (_out.Length > 0)
        {
            await _stream.WriteAsync(_out.GetBuffer().AsMemory(0, (int)_out.Length), stop);
            _out.SetLength(0);
        }
    }

    private static string Quote(string name) => name.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("\"", "\\\"", StringComparison.Ordinal);
}
