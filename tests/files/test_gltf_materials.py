"""Pictures inside of a mesh: found with the material that reads them, once for each, and nothing else of the document."""

import json

import pytest

from copper_sieve.core.errors import MeshInvalid
from copper_sieve.core.intake.materials import PictureBeside, Reading
from copper_sieve.files.meshes import gltf_pictures, mesh_from
from copper_sieve.files.meshes.gltf_materials import gltf_beside, gltf_values
from copper_sieve.files.meshes.mtl import mtl_pictures, mtl_values
from shapes import gltf_with_pictures, torus

ONE, TWO = b"\x89PNG one", b"\x89PNG two"
RING = torus(8, 6)


def found(images, materials, **more):
    content = gltf_with_pictures(RING, images, materials, **more)
    return [
        (one.name, one.reading.material, one.reading.slots, one.reading.is_cut, one.content)
        for one in gltf_pictures(content, "cap")
    ]


def test_each_material_has_its_pictures_with_the_slots_that_read_them():
    materials = [
        {
            "name": "Messing, poliert",
            "pbrMetallicRoughness": {"baseColorTexture": {"index": 0}, "metallicRoughnessTexture": {"index": 1}},
            "occlusionTexture": {"index": 1, "strength": 0.5},
            "alphaMode": "MASK",
        },
        {"extensions": {"KHR_materials_pbrSpecularGlossiness": {"diffuseTexture": {"index": 0}}}},
    ]
    own = {"name": "shared", "png": ONE}
    assert found([own, {"name": "arm.png", "png": TWO}], materials) == [
        ("Messing, poliert_baseColor.png", "Messing, poliert", ("baseColorTexture",), True, ONE),
        ("arm.png", "Messing, poliert", ("metallicRoughnessTexture", "occlusionTexture"), True, TWO),
        ("cap_diffuse.png", "", ("diffuseTexture",), False, ONE),
    ]


def test_pictures_of_no_name_or_of_one_name_are_called_by_what_they_are_for():
    materials = [{"name": "felt", "normalTexture": {"index": 0}, "emissiveTexture": {"index": 1}}]
    for names in ({}, {"name": "image"}):
        rows = found([{**names, "png": ONE}, {**names, "png": TWO}], materials)
        assert [row[0] for row in rows] == ["felt_normal.png", "felt_emissive.png"]


def test_what_is_not_there_has_no_bytes_and_what_lies_beside_comes_by_itself():
    textures = [{"source": 0}, {"source": 9}, {}, "no texture", {"source": 1}]
    slots = ("normalTexture", "occlusionTexture", "emissiveTexture", "clearcoatTexture", "otherTexture", "lostTexture")
    material = {"name": "felt", **{slot: {"index": k} for k, slot in enumerate(slots)}}
    content = json.loads(gltf_with_pictures(RING, [{"png": ONE}, {"png": TWO}], [material], textures=textures))
    content["images"] = [{"bufferView": 99, "mimeType": "image/jpeg"}, {"uri": "felt_height.png"}]
    (row,) = gltf_pictures(json.dumps(content).encode(), "cap")
    assert (row.name, row.content) == ("felt_normal.jpg", b"")


def test_a_document_that_holds_something_else_than_it_should_has_no_pictures_there():
    """Its mesh may be whole all the same, and is read."""
    odd = ["no material", {"extensions": [], "pbrMetallicRoughness": 7, "normalTexture": "none"}, None]
    content = gltf_with_pictures(RING, [{"png": ONE}], odd, textures=[{"source": 0, "extensions": {"EXT_texture_webp": 3}}])
    assert gltf_pictures(content, "cap") == []
    read = mesh_from(content, "ring.gltf")
    assert len(read.shape.triangles) == len(RING.triangles) and read.pictures == 0


@pytest.mark.parametrize("content", [b"", b"\x89PNG", b"{}", b"glTF\x02\0\0\0"])
def test_what_is_no_document_is_told(content):
    with pytest.raises(MeshInvalid):
        gltf_pictures(content, "cap")


def test_pictures_beside_are_named_with_their_folder_and_values_stand_where_there_is_none():
    group = {"baseColorTexture": {"index": 0}, "baseColorFactor": [0.5, 0.5, 0.5, 1], "roughnessFactor": 0.25}
    made = {"name": "felt", "pbrMetallicRoughness": group, "emissiveFactor": [0, 0, 0], "alphaMode": "MASK"}
    clear = {"pbrMetallicRoughness": {"baseColorFactor": [1, 0, 0, 0.5]}, "alphaMode": "BLEND", "emissiveFactor": [3, 1, 0]}
    coat = {"clearcoatFactor": 0.8, "clearcoatRoughnessFactor": 0}
    glass = {**clear, "extensions": {"KHR_materials_ior": {"ior": 1.5}, "KHR_materials_clearcoat": coat}}
    halved = {"base_color": {"red": 0.5, "green": 0.5, "blue": 0.5}}
    document = {
        "images": [{"uri": "my%20maps/wool%201.png"}],
        "textures": [{"source": 0}],
        "materials": [
            made,
            glass,
            {"name": "never made"},
            {"pbrMetallicRoughness": {"baseColorFactor": "red", "roughnessFactor": float("nan")}},
        ],
    }
    assert gltf_beside(document, "cap") == [
        PictureBeside("wool 1.png", "my maps", Reading(("baseColorTexture",), "felt", "felt", True, halved)),
    ]
    assert [(one.material, dict(one.values)) for one in gltf_values(document, "cap")] == [
        ("felt", {"roughness": (0.25,), "metallic": (1.0,)}),  # it reads a picture: metallic is the standard's own
        (
            "",
            {
                "emissive": (1.0, 1.0, 0.0),
                "reflectance": (pytest.approx(0.04),),
                "own_coat": (0.8,),
                "base_color": (1.0, 0.0, 0.0),
                "opacity": (0.5,),
            },
        ),
    ]


LAID = {"index": 0, "texCoord": 1, "extensions": {"KHR_texture_transform": {"scale": [2, 2]}}}
METALLIC = {"baseColorTexture": {"index": 0}, "metallicRoughnessTexture": {"index": 0}}
MATTE = {"diffuseTexture": {"index": 0}, "diffuseFactor": [0.5, 1, 1, 0.25], "glossinessFactor": 0.5}


@pytest.mark.parametrize(
    "material, corrections, undone",
    [
        ({"pbrMetallicRoughness": METALLIC}, {}, ""),
        (
            {"pbrMetallicRoughness": {**METALLIC, "baseColorFactor": [1, 0.5, 0, 0.5], "metallicFactor": 0}},
            {"base_color": {"red": 1, "green": 0.5, "blue": 0}, "opacity": {"times": 0.5}, "metallic": {"times": 0}},
            "",
        ),
        (
            {"extensions": {"KHR_materials_pbrSpecularGlossiness": MATTE}},
            {"diffuse": {"red": 0.5, "green": 1, "blue": 1}, "opacity": {"times": 0.25}},
            "",
        ),
        ({"normalTexture": {"index": 0, "scale": 0.5}}, {"normal": {"strength": 0.5}}, ""),
        ({"normalTexture": {"index": 0, "scale": -1}}, {}, "it multiplies normal by -1"),
        ({"occlusionTexture": {"index": 0, "strength": 0.5}}, {"occlusion": {"contrast": 0.5, "offset": 0.25}}, ""),
        ({"emissiveTexture": {"index": 0}}, {}, "it multiplies emissive by 0 0 0"),
        (
            {
                "emissiveTexture": {"index": 0},
                "emissiveFactor": [1, 1, 0.5],
                "extensions": {"KHR_materials_emissive_strength": {"emissiveStrength": 2}},
            },
            {"emissive": {"red": 2, "green": 2, "blue": 1}},
            "",
        ),
        ({"normalTexture": LAID}, {}, ""),  # all of its pictures: the mesh's UV are made so
        (
            {"normalTexture": LAID, "emissiveTexture": {"index": 1}, "emissiveFactor": [1, 1, 1]},
            {},
            "it moves, turns or scales the UV, it lies on the mesh’s second UV",
        ),
        ({"occlusionTexture": {"index": 0, "strength": "much", "texCoord": 0}}, {}, ""),
        ({"occlusionTexture": {"index": 0, "strength": 4}}, {}, "it multiplies ambient occlusion by 4"),
        ({"normalTexture": {"index": 0, "scale": float("nan")}}, {}, ""),
        ({"extensions": {"KHR_materials_clearcoat": {"clearcoatTexture": {"index": 0}}}}, {}, "it multiplies coat by 0"),
        (
            {
                "extensions": {
                    "KHR_materials_clearcoat": {
                        "clearcoatTexture": {"index": 0},
                        "clearcoatFactor": 0.5,
                        "clearcoatRoughnessTexture": {"index": 0},
                        "clearcoatRoughnessFactor": 1,
                    }
                }
            },
            {"own_coat": {"times": 0.5}},
            "",
        ),
        ({"pbrMetallicRoughness": {**METALLIC, "baseColorFactor": 0.5, "roughnessFactor": [0.5, 0.5]}}, {}, ""),
    ],
)
def test_what_a_material_makes_of_a_picture_is_a_correction_or_told(material, corrections, undone):
    """By glTF 2.0, 3.9: what a texture says is multiplied by the material's numbers."""
    ((reading),) = [one.reading for one in gltf_pictures(gltf_with_pictures(RING, [{"png": ONE}], [material]), "cap")]
    assert (reading.corrections, reading.undone) == (corrections, undone)


@pytest.mark.parametrize("line", ["map_Kd", "map_Kd -s", "Kd", "Kd red", "Kd 1 2", "Pr nan", "-o", "\xff\xfe"])
def test_a_line_of_mtl_that_says_nothing_is_passed_over(line):
    content = f"newmtl felt\n{line}\nmap_Ke -bm 0.5 -mm 0 1 glow.png\nPm 1\n".encode("latin-1")
    assert [(one.name, one.reading.slots) for one in mtl_pictures(content, "cap")] == [("glow.png", ("map_Ke",))]
    assert [dict(one.values) for one in mtl_values(content, "cap")] == [{"metallic": (1.0,)}]
