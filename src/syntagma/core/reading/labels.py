"""Labels and keys in other people's prompts, and what they say of the text under them."""


def _set(text: str) -> frozenset[str]:
    return frozenset(text.split())


# What leads to the parts of a label or a key of JSON; the last word of a key counts.
LABELS: dict[str, str] = {
    "subject": "subject", "concept": "subject", "idea": "subject", "topic": "subject", "main": "subject", "lead": "subject", "character": "subject", "hero": "subject", "who": "subject", "description": "subject",
    "object": "subject", "product": "subject", "person": "subject", "vessel": "subject", "action": "action", "deed": "action", "activity": "action",
    "motion": "action", "setting": "setting", "place": "setting", "location": "setting", "scene": "setting", "environment": "setting", "where": "setting",
    "light": "lighting", "lighting": "lighting", "lights": "lighting", "illumination": "lighting", "weather": "weather", "time": "hour", "hour": "hour",
    "mood": "mood", "atmosphere": "mood", "tone": "mood", "palette": "palette", "colour": "palette", "colours": "palette", "color": "palette",
    "colors": "palette", "color_palette": "palette", "hues": "palette", "doing": "action", "does": "action", "actions": "action", "gesture": "pose", "wearing": "wardrobe", "wears": "wardrobe",
    "attire": "wardrobe", "dress": "wardrobe", "clothed": "wardrobe", "backdrop": "background", "surroundings": "setting", "venue": "setting", "season": "hour", "time_of_day": "hour", "timeofday": "hour", "when": "hour",
    "year": "era", "decade": "era", "perspective": "camera-angle", "viewpoint": "camera-angle", "dof": "focus", "depth": "focus", "shutter": "exposure", "aperture": "exposure",
    "layout": "composition", "props": "subject", "emotion": "mood", "vibe": "mood", "feeling": "mood", "feel": "mood", "face": "expression", "narration": "speech", "voiceover": "speech",
    "soundscape": "ambience", "background_sound": "ambience", "noise": "ambience", "soundtrack": "music", "speed": "pacing", "tempo": "pacing", "finish": "finish", "font": "lettering", "typography": "lettering",
    "medium": "medium", "kind": "medium", "style": "design-style", "technique": "technique", "texture": "material",
    "material": "material", "materials": "material", "camera": "lens", "optics": "lens", "lens": "lens", "angle": "camera-angle", "view": "camera-angle", "shot": "shot-size", "size": "shot-size",
    "framing": "composition", "composition": "composition", "movement": "camera-move", "move": "camera-move", "camera_move": "camera-move", "focus": "focus",
    "background": "background", "wardrobe": "wardrobe", "clothing": "wardrobe", "clothes": "wardrobe", "costume": "wardrobe", "outfit": "wardrobe",
    "expression": "expression", "pose": "pose", "era": "era", "period": "era", "ambience": "ambience", "ambient": "ambience", "audio": "ambience",
    "sound": "sound-effect", "sfx": "sound-effect", "effect": "sound-effect", "effects": "visual-effect", "music": "music", "score": "music",
    "line": "speech", "dialogue": "speech", "speech": "speech", "says": "speech", "text": "speech", "lettering": "lettering", "voice": "voice",
    "pacing": "pacing", "pace": "pacing", "transition": "transition", "grade": "colour-grade", "film": "film-look", "genre": "genre",
    "exposure": "exposure", "rig": "camera-rig", "detail": "quality", "details": "quality", "quality": "quality",
}  # fmt: skip
NEGATIVE_LABELS = _set("not never negative avoid exclude without unwanted leave_out leave-out negative_prompt negativeprompt dont")
PARAMETER_KEYS = _set("""seed aspect aspect_ratio ratio duration seconds length fps rate frames steps width height size_px quality count pictures
    resolution format cfg closeness strength model version loop""")  # fmt: skip
GRADES = _set("low medium high standard normal draft plain fine best max hd auto")  # of a quality that is a parameter: other words say what is to be seen


def facet_of_label(name: str) -> str:
    """What a label or a key in small letters says of what stands under it, one or several."""
    return LABELS.get(name) or LABELS.get(name.removesuffix("s"), "")
