"""Photos: originals in place, with what is known of them."""

from __future__ import annotations

from pathlib import Path

from django.db import models

from server.project.conf import conf
from server.studios.models import Root, Studio
from tray_core import PhotoFacts
from tray_core.outline import traced_from_json
from tray_core.photo.find import named_as_raw
from tray_core.photo.interest import Interest, Subject
from tray_core.photo.words import NO_WORDS, Words, typed_over, words_from_json
from tray_core.plan.weight import Detail, detail_from_json
from tray_core.tone import NEUTRAL, NO_LOOKS, check_looks, check_tone


class Photo(models.Model):
    """One original, in place below a root or uploaded; never written to.

    width, height: upright pixels. digest: of the file's bytes, when they were last read, which was at `read`.
    interest: along the width and then along the height, as one value. detail: as `tray_core.plan.weight.Detail`.
    said: the words that the file says, and the XMP beside it; origin: where each comes from, None where nobody looked;
    unread: sentences on what of them could not be read. typed: what people typed above them, changed for the
    `typed_version`th time; tone, looks: its light and color, likewise. traced: its outline, as
    `tray_core.outline.Traced`, found or kept by a person, likewise, with `why` it may not be right. sidecar: when the
    XMP beside the file was changed, None without one. asked: since when it is to be read, None once it was: there is
    one such job a photo. tries: how many processes died at reading it; reader: the one that is at it. copied: bytes of
    its copies for the screens.
    """

    class State(models.TextChoices):
        WAITING = "waiting"
        READY = "ready"
        UNREADABLE = "unreadable"
        GONE = "gone"

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="photos")
    root = models.ForeignKey(Root, on_delete=models.CASCADE, null=True, related_name="photos")
    path = models.CharField(max_length=1000, help_text="below the root, or below the media folder for uploads")
    name = models.CharField(max_length=255)
    folder = models.CharField(max_length=255, blank=True)
    state = models.CharField(max_length=12, choices=State.choices, default=State.WAITING)
    reason = models.TextField(blank=True)
    format = models.CharField(max_length=12, blank=True)
    width = models.PositiveIntegerField(default=0)
    height = models.PositiveIntegerField(default=0)
    orientation = models.PositiveSmallIntegerField(default=1)
    depth = models.PositiveSmallIntegerField(default=8)
    mode = models.CharField(max_length=12, blank=True)
    alpha = models.BooleanField(default=False)
    profile = models.CharField(max_length=200, null=True)  # noqa: DJ001  # without a profile is not an empty one
    bad_profile = models.CharField(max_length=100, blank=True, help_text="why the embedded profile is not used")
    bytes = models.BigIntegerField(default=0)
    taken = models.DateTimeField(null=True)
    modified = models.DateTimeField(null=True)
    ends_early = models.BooleanField(default=False)
    digest = models.CharField(max_length=64, blank=True)
    interest = models.BinaryField(null=True)
    subjects = models.JSONField(default=list, help_text="what crops must not cut: kind and box")
    detail = models.JSONField(null=True)
    said = models.JSONField(default=dict)
    origin = models.JSONField(null=True)
    unread = models.JSONField(default=list)
    typed = models.JSONField(default=dict)
    typed_version = models.PositiveIntegerField(default=0)
    tone = models.JSONField(default=dict)
    looks = models.JSONField(default=list, help_text="further tones, each for some recipes")
    tone_version = models.PositiveIntegerField(default=0)
    traced = models.JSONField(default=dict)
    outlined = models.BooleanField(default=False, help_text="whether a person kept the outline")
    outline_version = models.PositiveIntegerField(default=0)
    sidecar = models.DateTimeField(null=True)
    read = models.DateTimeField(null=True)
    asked = models.DateTimeField(null=True)
    tries = models.PositiveSmallIntegerField(default=0)
    copied = models.PositiveIntegerField(default=0)
    reader = models.PositiveIntegerField(null=True, help_text="process number")

    class Meta:
        indexes = [models.Index(fields=["asked"], name="photo_asked", condition=models.Q(asked__isnull=False))]
        constraints = [
            models.UniqueConstraint(
                fields=["studio", "root", "path"], name="photo_once_in_studio", nulls_distinct=False
            )
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def file(self) -> Path:
        """The original. Whoever opens it for reading has checked that its root still holds it."""
        return (self.root.folder if self.root else conf.media) / self.path

    def facts(self) -> PhotoFacts:
        """What the plan needs to know."""
        return PhotoFacts(
            path=f"{self.folder}/{self.name}",
            format=self.format,
            width=self.width,
            height=self.height,
            orientation=self.orientation,
            depth=self.depth,
            mode=self.mode,
            alpha=self.alpha,
            profile=self.profile,
            bad_profile=self.bad_profile,
            bytes=self.bytes,
            # Cameras know no time zone: what they wrote is kept as if it were UTC and shown as written.
            taken=self.taken.replace(tzinfo=None) if self.taken else None,
            modified=self.modified.replace(tzinfo=None) if self.modified else None,
            ends_early=self.ends_early,
            interest=self._interest(),
            words=self.words,
            unread=tuple(self.unread),
            beside=self.root is not None and self.root.writable,
            tone=check_tone(self.tone) if self.tone else NEUTRAL,
            looks=check_looks(self.looks) if self.looks else NO_LOOKS,
            outline=traced_from_json(self.traced),
        )

    @property
    def words(self) -> Words:
        """What the photo says, with what people typed above it."""
        return typed_over(words_from_json(self.said), self.typed) if self.said or self.typed else NO_WORDS

    @property
    def toned(self) -> bool:
        """Whether it has a tone of its own, for all recipes or for some."""
        return bool(self.tone or self.looks)

    @property
    def early(self) -> bool:
        """Whether it is not read yet, and may have a picture of its camera's to be seen until then."""
        return self.state == self.State.WAITING and named_as_raw(self.name)

    def weighed(self) -> Detail | None:
        """What the photo weighed when it was read, for forecasts."""
        return detail_from_json(self.detail)

    def _interest(self) -> Interest | None:
        if self.interest is None:
            return None
        both = bytes(self.interest)
        subjects = tuple(Subject(kind, tuple(box)) for kind, box in self.subjects)
        return Interest(both[: len(both) // 2], both[len(both) // 2 :], subjects)


class Outline(models.Model):
    """The curves of a photo's outline, by their digest: those that it has, and that renditions were asked for with.

    content: as `tray_core.outline.Outline`, without whether it is sure.
    """

    photo = models.ForeignKey(Photo, on_delete=models.CASCADE, related_name="outlines")
    digest = models.CharField(max_length=64)
    content = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["photo", "digest"], name="outline_once_a_photo")]

    def __str__(self) -> str:
        return f"{self.photo} {self.digest[:8]}"


class Written(models.Model):
    """A file that a run put among originals: it is no photo, and the only kind there that may be replaced.

    path: below the root, as originals have theirs.
    """

    root = models.ForeignKey(Root, on_delete=models.CASCADE, related_name="written")
    path = models.CharField(max_length=1000)

    class Meta:
        indexes = [models.Index(fields=["root", "path"], name="written_path")]

    def __str__(self) -> str:
        return self.path
