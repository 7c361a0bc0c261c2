using System.Globalization;

namespace PostTide.StandIns.PracticeMailboxes;

/// <summary>A message in a practice mailbox.</summary>
public sealed class PracticeMessage
{
    public uint Uid { get; init; }
    public required byte[] Bytes { get; init; }
    public DateTimeOffset ArrivedAt { get; init; }
    public HashSet<string> Flags { get; } = new(StringComparer.OrdinalIgnoreCase);
}

/// <summary>A folder of a practice mailbox. With a place on disk it survives the process; callers hold the store's lock.</summary>
public sealed class PracticeFolder
{
    private readonly string? _place;

    public PracticeFolder(string name, string? place, uint uidValidity)
    {
        (Name, _place, UidValidity) = (name, place, uidValidity);
        if (_place is not null)
        {
            Directory.CreateDirectory(_place);
            Load();
        }
    }

    public string Name { get; }
    public uint UidValidity { get; private set; }
    public uint UidNext { get; private set; } = 1;
    public List<PracticeMessage> Messages { get; } = [];

    /// <summary>The special use of RFC 6154, if it has one.</summary>
    public string? SpecialUse => Name switch { "Archive" => "\\Archive", "Sent" => "\\Sent", "Junk" => "\\Junk", _ => null };

    private string Meta => Path.Combine(_place!, "folder");

    public PracticeMessage Append(byte[] bytes, DateTimeOffset arrived, IEnumerable<string> flags)
    {
        var message = new PracticeMessage { Uid = UidNext++, Bytes = bytes, ArrivedAt = arrived };
        message.Flags.UnionWith(flags);
        Messages.Add(message);
        Write(message);
        return message;
    }

    public void Remove(PracticeMessage message)
    {
        Messages.Remove(message);
        if (_place is not null)
        {
            File.Delete(FileOf(message.Uid));
            File.Delete(FlagsOf(message.Uid));
        }
    }

    public void SaveFlags(PracticeMessage message)
    {
        if (_place is not null)
        {
            File.WriteAllLines(FlagsOf(message.Uid), message.Flags);
        }
    }

    /// <summary>Numbers every message anew under another UIDVALIDITY, as a rebuilt server does.</summary>
    public void Renumber()
    {
        var old = Messages.ToList();
        old.ForEach(Remove);
        UidValidity++;
        UidNext = 1;
        foreach (var message in old)
        {
            Append(message.Bytes, message.ArrivedAt, message.Flags);
        }

        WriteMeta();
    }

    /// <summary>Numbers are written down when all of a lot are in, instead of with each.</summary>
    public void WriteMeta()
    {
        if (_place is not null)
        {
            File.WriteAllText(Meta + ".new", string.Create(CultureInfo.InvariantCulture, $"{UidValidity} {UidNext}"));
            File.Move(Meta + ".new", Meta, overwrite: true);
        }
    }

    private string FileOf(uint uid) => Path.Combine(_place!, $"{uid}.eml");

    private string FlagsOf(uint uid) => Path.Combine(_place!, $"{uid}.flags");

    private void Write(PracticeMessage message)
    {
        if (_place is null)
        {
            return;
        }

        var file = FileOf(message.Uid);
        File.WriteAllBytes(file + ".new", message.Bytes);
        File.SetLastWriteTimeUtc(file + ".new", message.ArrivedAt.UtcDateTime);
        File.Move(file + ".new", file, overwrite: true);
        if (message.Flags.Count > 0)
        {
            SaveFlags(message);
        }
    }

    private void Load()
    {
        if (File.Exists(Meta))
        {
            var parts = File.ReadAllText(Meta).Split(' ');
            UidValidity = uint.Parse(parts[0], CultureInfo.InvariantCulture);
            UidNext = uint.Parse(parts[1], CultureInfo.InvariantCulture);
        }
        else
        {
            WriteMeta();
        }

        foreach (var file in Directory.GetFiles(_place!, "*.eml").OrderBy(f => uint.Parse(Path.GetFileNameWithoutExtension(f), CultureInfo.InvariantCulture)))
        {
            var message = new PracticeMessage
            {
                Uid = uint.Parse(Path.GetFileNameWithoutExtension(file), CultureInfo.InvariantCulture),
                Bytes = File.ReadAllBytes(file),
                ArrivedAt = new DateTimeOffset(File.GetLastWriteTimeUtc(file), TimeSpan.Zero),
            };
            if (File.Exists(FlagsOf(message.Uid)))
            {
                message.Flags.UnionWith(File.ReadAllLines(FlagsOf(message.Uid)));
            }

            Messages.Add(message);
        }

        UidNext = Math.Max(UidNext, Messages.Count == 0 ? 1 : Messages[^1].Uid + 1);
    }
}
