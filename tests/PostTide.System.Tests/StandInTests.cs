using PostTide.Mail;
using PostTide.StandIns;
using PostTide.StandIns.Saltmarrow;
using PostTide.Store;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>The made-up mail, the practice application and the file store.</summary>
public sealed class StandInTests
{
    private static readonly DateTimeOffset Until = new(2026, 11, 25, 12, 0, 0, TimeSpan.Zero);

    private static IReadOnlyList<MadeMail> History(int seed) => new Generator(seed).History(Until, 90, 600);

    [Fact]
    public void The_same_seed_makes_the_same_mail_and_another_seed_another() // byte for byte
    {
        static string Digest(IEnumerable<MadeMail> mail) =>
            Convert.ToHexString(global::System.Security.Cryptography.SHA256.HashData([.. mail.SelectMany(m => m.ToBytes())]));
        Digest(History(1)).ShouldBe(Digest(History(1)));
        Digest(History(1)).ShouldNotBe(Digest(History(2)));
    }

    [Fact]
    public void Made_up_mail_is_various_in_order_and_goes_nowhere_real()
    {
        var mail = History(1894);
        mail.Count.ShouldBe(600);
        mail.Select(m => m.At).ShouldBeInOrder();
        mail[^1].At.ShouldBeLessThanOrEqualTo(Until);
        mail.Select(m => m.Message.TextBody).Distinct().Count().ShouldBeGreaterThan(550);
        mail.Count(m => m.Message.Attachments.Any()).ShouldBeGreaterThan(80);
        mail.Count(m => m.Message.HtmlBody is not null).ShouldBeGreaterThan(20);
        mail.Count(m => m.EnvelopeFrom.Length == 0).ShouldBeGreaterThan(3);
        foreach (var address in mail.SelectMany(m => m.Message.From.Mailboxes.Concat(m.Message.To.Mailboxes)).Select(a => a.Address))
        {
            address.Split('@')[1].ShouldEndWith(".example");
        }
    }

    [Fact]
    public void Every_made_up_message_can_be_read() =>
        History(7).ShouldAllBe(m => MailReader.Read(m.ToBytes()).From.Address.Length > 0);

    [Fact]
    public void The_practice_application_keeps_one_record_for_each_key()
    {
        var application = new PracticeApplication();
        var (first, repeated) = application.Take("k1", "a");
        repeated.ShouldBeFalse();
        application.Take("k1", "a").ShouldBe((first with { Repeats = 1 }, true));
        application.Take("k2", "a").Repeated.ShouldBeFalse();
        application.Take("", "a");
        application.Take("", "a").Repeated.ShouldBeFalse("without a key nothing can be recognised");
        application.Records.Count.ShouldBe(4);
    }

    [Fact]
    public async Task The_file_store_keeps_content_once_and_opens_nothing_else()
    {
        var folder = Directory.CreateTempSubdirectory("posttide-files-");
        var store = new FileStore(folder.FullName);
        var hash = await store.WriteAsync("hello"u8.ToArray(), CancellationToken.None);

        // FIPS 180-4: SHA-256 of “hello”, from memory and checked with sha256sum.
        hash.ShouldBe("2cf24dba5fb0a30e26e83b2ac5b9e29e1b161e5c1fa7425e73043362938b9824");
        (await store.WriteAsync("hello"u8.ToArray(), CancellationToken.None)).ShouldBe(hash);
        folder.GetFiles("*", SearchOption.AllDirectories).Length.ShouldBe(1);
        using (var reader = new StreamReader(store.Open(hash)))
        {
            (await reader.ReadToEndAsync()).ShouldBe("hello");
        }

        foreach (var name in new[] { "../../etc/passwd", "", new string('z', 64), hash.ToUpperInvariant() })
        {
            Should.Throw<FileNotFoundException>(() => store.Open(name));
        }

        folder.Delete(recursive: true);
    }
}
